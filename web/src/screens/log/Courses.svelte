<!-- Readings over time: each on a small chart of its own, by the same dates. -->
<script lang="ts">
  import { scaleLinear, scaleTime } from 'd3-scale'
  import { line } from 'd3-shape'
  import { ask, client, type Schemas } from '../../data/api'
  import { Resource } from '../../data/resource.svelte'
  import { dated } from '../../ui/format'
  import Fold from '../../ui/Fold.svelte'

  let { machine }: { machine: string } = $props()
  const page = new Resource<Schemas['Courses']>()
  const list = $derived(page.value?.courses ?? [])
  $effect(() => {
    const params = { path: { machine_id: machine } }
    void page.ask((signal) => ask(client.GET('/machines/{machine_id}/courses', { params, signal })))
  })
  const [width, height, left, bottom] = [420, 150, 44, 24]
  const ends = $derived.by(() => {
    const all = list.flatMap((c) => c.points.map((q) => Date.parse(q.at)))
    const [from, to] = [Math.min(...all), Math.max(...all)]
    return to > from ? [from, to] : [from - 864e5, to + 864e5]
  })
  const x = $derived(
    scaleTime(
      ends.map((t) => new Date(t)),
      [left, width - 12],
    ),
  )
  function y(c: Schemas['Course']) {
    const values = c.points.map((q) => q.value)
    const [low, high] = c.grades
      ? [0, c.grades.length - 1]
      : [Math.min(0, ...values), Math.max(...values, 1e-9) * 1.08]
    return scaleLinear([low, high], [height - bottom, 12])
  }
  const path = (c: Schemas['Course']) => {
    const to = y(c)
    return line<Schemas['CoursePoint']>(
      (q) => x(new Date(q.at)),
      (q) => to(q.value),
    )(c.points)
  }
</script>

{#if list.length > 0}
  <div class="mt-6">
    <Fold title="Readings over time" note={list.map((c) => c.title.toLowerCase()).join(', ')}>
      <div class="courses">
        {#each list as c (c.title)}
          {@const to = y(c)}
          <figure>
            <figcaption>
              <b>{c.title}</b>{c.unit ? `, ${c.unit}` : ''}: {c.points.at(-1)!.text}, {dated(
                c.points.at(-1)!.at,
                page.value!.zone,
              )}
            </figcaption>
            <svg
              viewBox="0 0 {width} {height}"
              role="img"
              aria-label="{c.title}: {c.points
                .map((q) => `${dated(q.at, page.value!.zone)} ${q.text}`)
                .slice(-12)
                .join('; ')}"
            >
              {#each c.grades ? c.grades.map((_, i) => i) : to.ticks(3) as t (t)}
                <line x1={left} x2={width - 8} y1={to(t)} y2={to(t)} stroke="var(--color-rule)" />
                <text x={left - 6} y={to(t) + 5} text-anchor="end">{c.grades ? c.grades[t] : t}</text>
              {/each}
              <path d={path(c)} fill="none" stroke="currentColor" stroke-width="2.5" />
              {#each c.points as q, i (i)}<circle
                  cx={x(new Date(q.at))}
                  cy={to(q.value)}
                  r="3.5"
                  fill="currentColor"
                />{/each}
              {#each x.ticks(4) as t (+t)}<text x={x(t)} y={height - 4} text-anchor="middle"
                  >{t.toLocaleString('en-GB', { month: 'short', year: '2-digit' })}</text
                >{/each}
            </svg>
          </figure>
        {/each}
      </div>
    </Fold>
  </div>
{/if}

<style>
  .courses {
    display: grid;
    grid-template-columns: repeat(auto-fit, minmax(min(100%, 340px), 1fr));
    gap: 18px 32px;
  }
  svg {
    display: block;
    width: 100%;
    max-width: 560px;
  }
  text {
    font-size: 13px;
    font-stretch: 80%;
    fill: var(--color-ink-2);
  }
</style>
