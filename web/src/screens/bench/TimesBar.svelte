<!-- How far over its limit a job is, so that late ones differ: the post is the limit, the bar goes to three times of
     it. -->
<script lang="ts">
  import type { Standing } from '../../data/api'
  import Ask from '../../ui/Ask.svelte'
  import { amount } from '../../ui/format'
  import Pattern from '../../ui/Pattern.svelte'

  let { clock, due, machine }: { clock: NonNullable<Standing['clock']>; due: Standing; machine: string } = $props()
  const id = $props.id()
</script>

<div class="times" class:text-stop={clock.over}>
  <svg aria-hidden="true" preserveAspectRatio="none">
    <defs><Pattern {id} kind={clock.kind} /></defs>
    <rect width="{Math.min(100, (clock.times / 3) * 100)}%" height="16" fill="url(#{id})" />
    <line x1="0" y1="16.5" x2="100%" y2="16.5" stroke="var(--color-rule)" />
    <line x1="33.3%" y1="-3" x2="33.3%" y2="19" stroke="currentColor" stroke-width="2.5" />
  </svg>
  <b
    ><Ask
      {machine}
      text={clock.says}
      limit={{ value: clock.limit, unit: clock.unit }}
      of={(m) =>
        m.plan.dues
          .find((d) => d.task === due.task && d.part === due.part)
          ?.clocks.find((c) => c.kind === clock.kind)?.used}
    /></b
  >
  <span class="sr-only">{clock.kind}: {amount(clock.used, clock.unit)} of {amount(clock.limit, clock.unit)}</span>
</div>

<style>
  .times {
    display: grid;
    grid-template-columns: 1fr 120px;
    align-items: center;
    gap: 10px;
  }
  svg {
    width: 100%;
    height: 16px;
    overflow: visible;
  }
  b {
    font-size: 15px;
    font-stretch: 70%;
    text-align: right;
  }
</style>
