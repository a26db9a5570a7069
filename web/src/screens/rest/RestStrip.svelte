<!-- A rest on one strip: its days as dots, a post where it closes and where it comes back, a ring for each visit. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { day } from '../../ui/format'

  let { rest, now = new Date() }: { rest: Schemas['Rest']; now?: Date } = $props()
  const from = $derived(new Date(`${rest.from}T12:00:00Z`).getTime())
  const back = $derived(new Date(rest.back!).getTime())
  const at = (time: number) => 4 + 92 * Math.min(1, Math.max(0, (time - from) / Math.max(1, back - from)))
  const dots = $derived(Array.from({ length: Math.min(120, rest.days ?? 0) }, (_, i) => at(from + i * 864e5)))
  const here = $derived(now.getTime() > from && now.getTime() < back ? at(now.getTime()) : undefined)
  const visitWords = (v: Schemas['RestVisit']) =>
    `${day(v.on, rest.zone)}${v.made ? ', made' : v.missed ? ', missed' : ''}`
  const words = $derived(
    `Closed from ${day(new Date(from).toISOString(), 'UTC')}, back on ${day(rest.back!, rest.zone)}. ` +
      (rest.visits.length === 0 ? 'Nobody comes.' : `Visits: ${rest.visits.map(visitWords).join('; ')}.`),
  )
</script>

<figure class="m-0">
  <svg height="92" width="100%" role="img" aria-label={words}>
    {#each dots as x, i (i)}<circle cx="{x}%" cy="34" r="2.4" fill="currentColor" />{/each}
    <line x1="4%" y1="10" x2="4%" y2="50" stroke="currentColor" stroke-width="6" /><line
      x1="96%"
      y1="10"
      x2="96%"
      y2="50"
      stroke="currentColor"
      stroke-width="6"
    />
    <text x="4%" y="72">{day(new Date(from).toISOString(), 'UTC')}</text><text x="96%" y="72" text-anchor="end"
      >back {day(rest.back!, rest.zone)}</text
    >
    <text x="4%" y="88" class="small">closed</text>
    {#each rest.visits as v (v.on)}
      {@const x = at(new Date(v.on).getTime())}
      <circle cx="{x}%" cy="34" r="13" class="visit" class:made={v.made} />
      {#if v.made}<text x="{x}%" y="40" text-anchor="middle" class="made-mark">✓</text>{:else if v.missed}<text
          x="{x}%"
          y="40"
          text-anchor="middle">×</text
        >{/if}
      <text x="{x}%" y="72" text-anchor="middle" class="on">{day(v.on, rest.zone)}</text>
    {/each}
    {#if here !== undefined}<rect x="{here}%" y="6" width="5" height="50" fill="var(--color-act)" /><text
        x="{here}%"
        y="88"
        text-anchor="middle"
        class="now">now</text
      >{/if}
  </svg>
</figure>

<style>
  text {
    fill: currentColor;
    font-size: 15px;
    font-stretch: 75%;
    font-weight: 600;
  }
  .small {
    fill: var(--color-ink-2);
    font-size: 13px;
  }
  .now {
    fill: var(--color-act);
  }
  .visit {
    fill: var(--color-paper);
    stroke: var(--color-ink);
    stroke-width: 3;
  }
  .made {
    fill: var(--color-ink);
  }
  .made-mark {
    fill: var(--color-paper);
  }
  @media (max-width: 700px) {
    .on {
      display: none;
    }
  }
</style>
