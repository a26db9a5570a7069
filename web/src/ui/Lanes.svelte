<!-- A sitting in time: the hands, the machine, each task. What the hands do is solid, the pump ruled, what stands by
     itself waved. -->
<script lang="ts">
  import { scaleTime } from 'd3-scale'
  import type { Schemas } from '../data/api'
  import { clock } from './format'

  let { sheet }: { sheet: Pick<Schemas['WorkSheet'], 'start_at' | 'end_at' | 'zone' | 'lanes'> } = $props()
  const uid = $props.id()
  const row = 46
  const high = 26
  let width = $state(760)
  const narrow = $derived(width < 520)
  const longest = $derived(Math.max(...sheet.lanes.map((l) => l.title.length)))
  const left = $derived(narrow ? 6 : Math.min(width * 0.42, Math.max(120, longest * 7.2 + 22)))
  const top = 40
  const start = $derived(Date.parse(sheet.start_at))
  const x = $derived(
    scaleTime()
      .domain([start, Math.max(Date.parse(sheet.end_at), start + 60_000)])
      .range([left, width - 12]),
  )
  const at = $derived((minutes: number) => x(start + minutes * 60_000))
  const ticks = $derived(x.ticks(narrow ? 3 : 7))
  // what stands is told by its name where there is room, the hands' own bars by the list below
  type Bars = Schemas['WorkSheet']['lanes'][number]['bars']
  const fits = (bars: Bars, b: Bars[number]) => {
    const next = bars.filter((o) => o.from_min > b.from_min).map((o) => o.from_min)
    return at(Math.min(b.to_min, ...next)) - at(b.from_min) > b.title.length * 6.2 + 12
  }
  const after = (minutes: number) => clock(new Date(start + minutes * 60_000).toISOString(), sheet.zone)
  const told = $derived(
    sheet.lanes
      .map(
        (l) =>
          `${l.title}: ${l.bars.map((b) => `${b.title} from ${after(b.from_min)} to ${after(b.to_min)}`).join(', ')}.`,
      )
      .join(' '),
  )
  const fills = $derived({ hands: 'currentColor', pump: `url(#${uid}-pump)`, stands: `url(#${uid}-stands)` })
</script>

<div bind:clientWidth={width}>
  <svg
    viewBox="0 0 {width} {top + sheet.lanes.length * row + (narrow ? sheet.lanes.length * 16 : 0)}"
    role="img"
    aria-label={told}
    class="text-ink w-full"
  >
    <defs>
      <pattern id="{uid}-pump" width="5" height="16" patternUnits="userSpaceOnUse"
        ><path d="M2 0v16" stroke="currentColor" stroke-width="2" /></pattern
      >
      <pattern id="{uid}-stands" width="14" height="8" patternUnits="userSpaceOnUse"
        ><path d="M0 4q3.5-5 7 0t7 0" fill="none" stroke="currentColor" stroke-width="1.3" /></pattern
      >
    </defs>
    {#each ticks as t (t.getTime())}
      <path d="M{x(t)} 22v10" stroke="currentColor" stroke-width="2" />
      <text
        x={x(t)}
        y="15"
        text-anchor={x(t) < left + 14 ? 'start' : x(t) > width - 34 ? 'end' : 'middle'}
        class="hour">{clock(t.toISOString(), sheet.zone)}</text
      >
    {/each}
    {#each sheet.lanes as l, i (i)}
      {@const step = narrow ? row + 16 : row}
      {@const y = top + i * step + (narrow ? 16 : 0)}
      <text
        x={narrow ? left : left - 14}
        y={narrow ? y - 4 : y + high / 2 + 5}
        text-anchor={narrow ? 'start' : 'end'}
        class="lane"
        class:first={i === 0}>{l.title}</text
      >
      <path d="M{left} {y + high}H{width - 12}" stroke="var(--color-rule)" stroke-width="1.5" />
      {#each l.bars as b (b.from_min + b.title)}
        {@const wide = Math.max(2, at(b.to_min) - at(b.from_min) - 1)}
        <rect
          x={at(b.from_min)}
          {y}
          width={wide}
          height={high}
          fill={fills[b.work]}
          stroke="currentColor"
          stroke-width="1.5"><title>{b.title}</title></rect
        >
        {#if b.work === 'stands' && fits(l.bars, b)}
          <rect
            x={at(b.from_min) + 5}
            y={y + 4}
            width={b.title.length * 6.2 + 6}
            height={high - 8}
            fill="var(--color-paper)"
          />
          <text x={at(b.from_min) + 8} y={y + high / 2 + 4.5} class="bar">{b.title}</text>
        {/if}
      {/each}
    {/each}
  </svg>
  <p class="label-voice key-line">
    <svg width="22" height="12" aria-hidden="true"><rect width="22" height="12" fill="currentColor" /></svg> your
    hands
    <svg width="22" height="12" aria-hidden="true"
      ><rect width="22" height="12" fill="url(#{uid}-pump)" stroke="currentColor" /></svg
    >
    the pump
    <svg width="22" height="12" aria-hidden="true"
      ><rect width="22" height="12" fill="url(#{uid}-stands)" stroke="currentColor" /></svg
    > stands by itself
  </p>
</div>

<style>
  .hour {
    font-size: 14px;
    font-weight: 600;
    fill: currentColor;
    font-variant-numeric: tabular-nums;
  }
  .lane {
    font-size: 14.5px;
    fill: currentColor;
  }
  .lane.first {
    font-weight: 700;
  }
  .bar {
    font-size: 12.5px;
    font-weight: 600;
    fill: currentColor;
  }
  .key-line {
    display: flex;
    flex-wrap: wrap;
    gap: 6px 8px;
    align-items: center;
    color: var(--color-ink);
  }
</style>
