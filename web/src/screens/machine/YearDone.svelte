<!-- What was done in the last year, on one strip: what gave the machine a new start stands tall. -->
<script lang="ts">
  import { scaleTime } from 'd3-scale'
  import type { Schemas } from '../../data/api'
  import { day } from '../../ui/format'

  let { glance, zone }: { glance: Schemas['Glance']; zone: string } = $props()
  const width = 400
  const x = $derived(scaleTime([new Date(glance.year_from), new Date(glance.year_to)], [8, width - 12]))
  const tall = { large: 34, usual: 20, small: 8 }
  const thick = $derived({
    large: 7,
    usual: glance.year.length > 120 ? 1 : 3,
    small: glance.year.length > 120 ? 0.6 : 2,
  })
</script>

<h2 class="label-voice mt-5">This year: {glance.done}</h2>
<svg
  viewBox="0 0 {width} 78"
  role="img"
  aria-label="Done in the last year: {glance.done}. {glance.year
    .filter((m) => m.size === 'large')
    .map((m) => `${m.title}, ${day(m.at, zone)}`)
    .join('; ')}"
>
  <line x1="8" x2={width - 12} y1="30" y2="30" stroke="var(--color-rule)" />
  {#each glance.year as m, i (i)}<line
      x1={x(new Date(m.at))}
      x2={x(new Date(m.at))}
      y1={30 - tall[m.size] / 2}
      y2={30 + tall[m.size] / 2}
      stroke="currentColor"
      stroke-width={thick[m.size]}><title>{m.title}, {day(m.at, zone)}</title></line
    >{/each}
  <line x1={width - 12} x2={width - 12} y1="4" y2="58" stroke="var(--color-act)" stroke-width="3" />
  {#each x.ticks(5) as t (+t)}<text x={x(t)} y="74" text-anchor="middle"
      >{t.toLocaleString('en-GB', { month: 'short' })}</text
    >{/each}
</svg>

<style>
  svg {
    display: block;
    width: 100%;
    max-width: 460px;
  }
  text {
    font-size: 14px;
    font-stretch: 75%;
    fill: currentColor;
  }
</style>
