<!-- How scale grows on each surface until its limit, with the range. Surfaces differ by pattern, so that it reads in
     print and without colour. -->
<script lang="ts">
  import { scaleLinear } from 'd3-scale'
  import { area, line } from 'd3-shape'
  import type { Schemas } from '../../data/api'

  let { places }: { places: Schemas['ScalePlace'][] } = $props()
  const id = $props.id()
  const width = 620
  const height = 250
  const edge = { left: 50, right: 20, top: 16, bottom: 44 }
  // the leading surface's own limit is the top: the others are drawn as a share of theirs
  // as far as the leading one takes to its limit and a quarter on, so that the line is of use before and after it
  const lead = $derived(places.find((q) => q.leads) ?? places[0])
  const left = $derived(lead && lead.days.value < 3650 ? lead.days.value : undefined)
  const days = $derived(Math.max(60, Math.min(1460, left ? left * 1.35 : 548)))
  const past = $derived(Math.max(0, ...places.map((q) => q.grown.value / q.limit_mm)))
  const x = $derived(scaleLinear([0, days], [edge.left, width - edge.right]))
  const top = $derived(Math.max(1.25, past * 1.15))
  const y = $derived(scaleLinear([0, top], [height - edge.bottom, edge.top]))
  type Point = Schemas['ScalePoint']
  const share = (q: Schemas['ScalePlace'], v: number) => y(Math.min(top, v / q.limit_mm))
  const middle = (q: Schemas['ScalePlace']) =>
    line<Point>(
      (d) => x(d.days),
      (d) => share(q, d.likely),
    )(q.curve) ?? ''
  const band = (q: Schemas['ScalePlace']) =>
    area<Point>(
      (d) => x(d.days),
      (d) => share(q, d.low),
      (d) => share(q, d.high),
    )(q.curve) ?? ''
  const month = 30.4
  const step = $derived(days > 700 ? 12 : days > 300 ? 3 : days > 120 ? 2 : 1)
  const months = $derived(Array.from({ length: Math.floor(days / month / step) + 1 }, (_, i) => i * step))
  const dashes = ['', '10 6', '2 5']
</script>

<figure>
  <svg
    viewBox="0 0 {width} {height}"
    role="img"
    aria-label="Scale on each surface from now on, as a share of its limit: {places
      .map((q) => `${q.title} ${Math.round((q.grown.value / q.limit_mm) * 100)} percent now`)
      .join(', ')}"
  >
    <defs>
      <pattern id="{id}-0" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)"
        ><path d="M0 0V7" stroke="currentColor" stroke-width="1.3" opacity="0.55" /></pattern
      >
      <pattern id="{id}-1" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(-45)"
        ><path d="M0 0V7" stroke="currentColor" stroke-width="1.3" opacity="0.55" /></pattern
      >
      <pattern id="{id}-2" width="8" height="8" patternUnits="userSpaceOnUse"
        ><circle cx="4" cy="4" r="1.2" fill="currentColor" opacity="0.6" /></pattern
      >
      <clipPath id="{id}-in"
        ><rect
          x={edge.left}
          y={edge.top}
          width={width - edge.left - edge.right}
          height={height - edge.top - edge.bottom}
        /></clipPath
      >
    </defs>
    {#each [0, 0.5, 1] as t (t)}
      <line
        x1={edge.left}
        x2={width - edge.right}
        y1={y(t)}
        y2={y(t)}
        stroke={t === 1 ? 'var(--color-stop)' : 'var(--color-rule)'}
        stroke-width={t === 1 ? 3 : 1}
      />
      <text x={edge.left - 8} y={y(t) + 5} text-anchor="end">{t === 1 ? 'limit' : t === 0 ? '0' : 'half'}</text>
    {/each}
    {#each months as m (m)}
      <text x={x(m * month)} y={height - 20} text-anchor="middle">{m === 0 ? 'now' : m}</text>
    {/each}
    <text x={width - edge.right} y={height - 2} text-anchor="end">months from now</text>
    {#if left && left > 0 && left < days}
      <line
        x1={x(left)}
        x2={x(left)}
        y1={edge.top}
        y2={height - edge.bottom}
        stroke="var(--color-act)"
        stroke-width="3"
      />
      <text x={x(left) - 6} y={edge.top + 16} text-anchor="end" class="at">likely at its limit</text>
    {:else if past >= 1}
      <text x={edge.left + 10} y={edge.top + 16} class="over">past its limit: {past.toFixed(1)} times as thick</text
      >
    {/if}
    <g clip-path="url(#{id}-in)">
      {#each places as q, i (q.id)}<path d={band(q)} fill="url(#{id}-{i % 3})" />{/each}
      {#each places as q, i (q.id)}<path
          d={middle(q)}
          fill="none"
          stroke="currentColor"
          stroke-width={q.leads ? 4 : 2.5}
          stroke-dasharray={dashes[i % 3]}
        />{/each}
    </g>
  </svg>
  <figcaption>
    {#each places as q, i (q.id)}
      <span class="legend"
        ><svg width="46" height="14" aria-hidden="true"
          ><rect width="46" height="14" fill="url(#{id}-{i % 3})" /><path
            d="M0 7H46"
            stroke="currentColor"
            stroke-width={q.leads ? 4 : 2.5}
            stroke-dasharray={dashes[i % 3]}
          /></svg
        >{q.title}{q.count > 1 ? `, ${q.count} of them` : ''}: limit {q.limit_mm} mm</span
      >
    {/each}
  </figcaption>
</figure>

<style>
  svg[role='img'] {
    width: 100%;
    height: auto;
    display: block;
  }
  text {
    font-size: 19px;
    font-stretch: 75%;
    fill: var(--color-ink-2);
  }
  .at {
    fill: var(--color-act);
    font-weight: 700;
  }
  .over {
    fill: var(--color-stop);
    font-weight: 700;
  }
  figcaption {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 24px;
    font-size: 15px;
  }
  .legend {
    display: inline-flex;
    align-items: center;
    gap: 8px;
  }
</style>
