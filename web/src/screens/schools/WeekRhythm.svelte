<!-- Shots by the day of the week, as learned: a tick a shot. -->
<script lang="ts">
  import type { Worked } from '../../data/api'
  import { figure } from '../../ui/format'
  import Num from '../../ui/Num.svelte'

  let { days }: { days: Worked[] } = $props()
  const id = $props.id()
  const names = ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat']
  const most = $derived(Math.max(...days.map((d) => d.value)))
  const order = [1, 2, 3, 4, 5, 6, 0]
</script>

<ul>
  {#each order as d (d)}
    <li>
      <span>{names[d]}</span>
      <svg aria-hidden="true" preserveAspectRatio="none">
        <defs
          ><pattern id="{id}-{d}" width="5" height="14" patternUnits="userSpaceOnUse"
            ><path d="M2 1v12" stroke="currentColor" stroke-width="2" /></pattern
          ></defs
        >
        <rect width="{(days[d]!.value / most) * 100}%" height="14" fill="url(#{id}-{d})" />
      </svg>
      <b><Num worked={days[d]!} text={figure(days[d]!.value)} /></b>
    </li>
  {/each}
</ul>

<style>
  li {
    display: grid;
    grid-template-columns: 40px 1fr 52px;
    align-items: center;
    gap: 8px;
    font-size: 15px;
    font-stretch: 78%;
    line-height: 1.35;
  }
  svg {
    width: 100%;
    height: 14px;
    display: block;
  }
  b {
    text-align: right;
    font-stretch: 70%;
  }
</style>
