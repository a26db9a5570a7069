<!-- A machine's own history of intervals: what was allowed as a stepped line, every wash as a mark at what it really
     was. -->
<script lang="ts">
  import { scaleLinear, scaleTime } from 'd3-scale'
  import { curveStepAfter, line } from 'd3-shape'
  import type { Schemas } from '../../data/api'
  import { dayShort, firsts, groupOf } from '../../ui/format'

  let { schools }: { schools: Schemas['Schools'] } = $props()
  const width = 1180
  const height = 300
  const edge = { left: 52, right: 16, top: 18, bottom: 34 }
  const zone = $derived(schools.zone)
  const limits = $derived(schools.changes.filter((c) => c.interval && !c.taken_back))
  const byShots = $derived(limits.every((c) => c.interval?.shots))
  const limit = (c: Schemas['ChangeShown']) =>
    (byShots ? c.interval?.shots : c.interval?.daily ? 1 : c.interval?.days) ?? 0
  const marks = $derived(
    schools.passed
      .filter((w) => (byShots ? w.shots : w.days) !== undefined)
      .map((w) => ({ ...w, value: (byShots ? w.shots : w.days) ?? 0 })),
  )
  const now = Date.now()
  const from = $derived(
    Math.min(
      ...schools.passed.map((w) => Date.parse(w.at)),
      ...(schools.passed.length ? [] : [Date.parse(limits[0]?.at ?? '') || now - 30 * 86_400_000]),
    ),
  )
  const x = $derived(scaleTime([new Date(from), new Date(now)], [edge.left, width - edge.right]))
  const top = $derived(Math.max(1, ...limits.map(limit), ...marks.map((m) => m.value)) * 1.12)
  const y = $derived(scaleLinear([0, top], [height - edge.bottom, edge.top]))
  const steps = $derived(
    line<{ at: number; value: number }>(
      (d) => x(Math.max(from, d.at)),
      (d) => y(d.value),
    ).curve(curveStepAfter)([
      ...limits.map((c) => ({ at: Date.parse(c.at), value: limit(c) })),
      { at: now, value: limit(limits.at(-1)!) },
    ]) ?? '',
  )
  const changed = $derived(schools.changes.filter((c) => c.what !== 'begun' && Date.parse(c.at) > from))
</script>

<figure>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex: it scrolls sideways on a phone -->
  <div class="wide" role="group" aria-label="Chart" tabindex="0">
    <svg
      viewBox="0 0 {width} {height}"
      role="img"
      aria-label="Each wash at the {byShots
        ? 'shots'
        : 'days'} since the one before, beside what the interval allowed"
    >
      {#each y.ticks(4) as t (t)}
        <line x1={edge.left} x2={width - edge.right} y1={y(t)} y2={y(t)} stroke="var(--color-rule)" />
        <text x={edge.left - 8} y={y(t) + 5} text-anchor="end">{t}</text>
      {/each}
      {#each x.ticks(7) as t (t)}
        <text x={x(t)} y={height - 10} text-anchor="middle">{dayShort(t.toISOString(), zone)}</text>
      {/each}
      {#each changed as c (c.id)}
        <line
          x1={x(Date.parse(c.at))}
          x2={x(Date.parse(c.at))}
          y1={edge.top}
          y2={height - edge.bottom}
          stroke="currentColor"
          stroke-dasharray="2 5"
          stroke-width="2"
        />
      {/each}
      <path d={steps} fill="none" stroke="var(--color-act)" stroke-width="4" />
      {#each marks as m, i (i)}
        <g transform="translate({x(Date.parse(m.at))},{y(m.value)})">
          <title
            >{dayShort(m.at, zone)}, group {groupOf(m.part)}: {Math.round(m.value)}
            {byShots ? 'shots' : 'days'}{m.first ? `, ${firsts[m.first]}` : ''}</title
          >
          {#if m.first === 'clear'}
            <circle r="7" fill="var(--color-paper)" stroke="currentColor" stroke-width="2.5" />
          {:else if m.first === 'pale'}
            <circle r="7" fill="var(--color-paper)" stroke="currentColor" stroke-width="2.5" /><circle
              r="2.5"
              fill="currentColor"
            />
          {:else if m.first === 'brown'}
            <rect
              x="-7"
              y="-7"
              width="14"
              height="14"
              fill="var(--color-paper)"
              stroke="currentColor"
              stroke-width="2.5"
            /><rect x="-7" y="0" width="14" height="7" fill="currentColor" />
          {:else if m.first === 'dark'}
            <path d="M0-9L9 0 0 9-9 0z" fill="currentColor" />
          {:else}
            <path d="M-5 0H5" stroke="currentColor" stroke-width="2.5" />
          {/if}
        </g>
      {/each}
    </svg>
  </div>
  <figcaption>
    <span
      ><svg viewBox="0 0 26 18"
        ><path d="M0 13H13V5H26" fill="none" stroke="var(--color-act)" stroke-width="4" /></svg
      >
      {byShots ? 'shots' : 'days'} allowed</span
    >
    <span><svg viewBox="-9 -9 18 18"><circle r="7" class="line" /></svg> clear</span>
    <span
      ><svg viewBox="-9 -9 18 18"
        ><circle r="7" fill="none" stroke="currentColor" stroke-width="2.5" /><circle
          r="2.5"
          fill="currentColor"
        /></svg
      > pale</span
    >
    <span
      ><svg viewBox="-9 -9 18 18"
        ><rect x="-7" y="-7" width="14" height="14" fill="none" stroke="currentColor" stroke-width="2.5" /><rect
          x="-7"
          y="0"
          width="14"
          height="7"
          fill="currentColor"
        /></svg
      > brown</span
    >
    <span><svg viewBox="-9 -9 18 18"><path d="M0-9L9 0 0 9-9 0z" fill="currentColor" /></svg> dark</span>
    <span><svg viewBox="-9 -9 18 18"><path d="M-5 0H5" class="line" /></svg> washed, nobody looked</span>
    <span
      ><svg viewBox="-9 -9 18 18"
        ><path d="M0-9V9" stroke="currentColor" stroke-width="2" stroke-dasharray="2 5" /></svg
      > changed</span
    >
  </figcaption>
</figure>

<style>
  figure .wide > svg {
    width: 100%;
    display: block;
  }
  text {
    font-size: 15px;
    font-stretch: 75%;
    font-weight: 600;
    fill: var(--color-ink-2);
  }
  figcaption {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 22px;
    margin-top: 8px;
    font-size: 15px;
    font-stretch: 78%;
  }
  figcaption span {
    display: inline-flex;
    align-items: center;
    gap: 6px;
  }
  .line {
    fill: none;
    stroke: currentColor;
    stroke-width: 2.5;
  }
  figcaption svg {
    width: 20px;
    height: 18px;
  }
  @media (max-width: 700px) {
    .wide {
      overflow-x: auto;
    }
    figure .wide > svg {
      width: 820px;
    }
  }
</style>
