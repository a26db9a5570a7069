<!-- How long it takes as one bar: hands solid, what runs and stands by itself waved; at its end the time. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { clock, lasting, weekday } from '../../ui/format'

  let { plan, zone }: { plan: Schemas['DescalePlan']; zone: string } = $props()
  const id = $props.id()
  const width = 600
  const hands = $derived((plan.hands_min / Math.max(1, plan.minutes.value)) * width)
</script>

<svg
  viewBox="0 0 {width} 34"
  role="img"
  aria-label="{lasting(plan.hands_min)} by hand, {lasting(plan.waits_min)} of waiting; done about {clock(
    plan.ends_at,
    zone,
  )}"
>
  <defs
    ><pattern id="{id}-w" width="14" height="8" patternUnits="userSpaceOnUse"
      ><path d="M0 4q3.5-5 7 0t7 0" fill="none" stroke="currentColor" stroke-width="1.6" /></pattern
    ></defs
  >
  <rect x="0" y="4" width={hands} height="26" fill="currentColor" />
  <rect x={hands} y="4" width={width - hands} height="26" fill="url(#{id}-w)" />
  <rect x="1" y="4" width={width - 2} height="26" fill="none" stroke="currentColor" stroke-width="2" />
</svg>
<p class="mt-1 flex flex-wrap justify-between gap-x-6">
  <span><b>{lasting(plan.hands_min)}</b> by hand, {lasting(plan.waits_min)} of waiting</span><span
    >begun now, done <b>about {clock(plan.ends_at, zone)}</b>, {weekday(plan.ends_at, zone)}</span
  >
</p>

<style>
  svg {
    display: block;
    width: 100%;
    height: auto;
  }
</style>
