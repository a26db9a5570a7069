<!-- How a year went: a line a machine, a tick for each time that somebody worked at it, month by month. A month is
     pressed to see it alone. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'

  let {
    bands,
    year,
    month = $bindable(),
  }: { bands: Schemas['Band'][]; year: number; month: number | undefined } = $props()
  const names = Array.from({ length: 12 }, (_, i) =>
    new Date(Date.UTC(2026, i, 15)).toLocaleString('en-GB', { month: 'short', timeZone: 'UTC' }),
  )
  const wide = 48
  const many = 12
  let whole = $state(false)
  const shown = $derived(whole ? bands : bands.slice(0, many))
  const said = (b: Schemas['Band']) =>
    names
      .map((name, i) => (b.times[i] ? `${name} ${b.times[i]}${b.unsafe[i] ? ', left unsafe' : ''}` : ''))
      .filter(Boolean)
      .join('; ') || 'nothing'
</script>

{#if bands.length > 0}
  <div class="bands">
    <span></span>
    <div class="months" role="group" aria-label="Months of {year}">
      {#each names as name, i (name)}<button
          type="button"
          aria-pressed={month === i + 1}
          onclick={() => (month = month === i + 1 ? undefined : i + 1)}>{name}</button
        >{/each}
    </div>
    {#each shown as b (b.machine_id)}
      <span class="name">{b.name}</span>
      <svg viewBox="0 0 {wide * 12} 26" preserveAspectRatio="none" role="img" aria-label="{b.name}: {said(b)}">
        {#each b.times as times, i (i)}
          <rect
            x={i * wide}
            width={wide}
            height="26"
            fill={month === i + 1 ? 'var(--color-slip)' : 'none'}
            stroke="none"
          />
          <path
            d={Array.from(
              { length: Math.min(times, 31) },
              (_, n) => `M${i * wide + 3 + (n * (wide - 6)) / Math.max(8, Math.min(times, 31))} 6 v14`,
            ).join(' ')}
            stroke="currentColor"
            stroke-width={times > 16 ? 1 : 2}
            vector-effect="non-scaling-stroke"
          />
          {#if b.unsafe[i]}<path
              d="M{i * wide + 2} 24 h{wide - 4}"
              stroke="var(--color-stop)"
              stroke-width="3"
              vector-effect="non-scaling-stroke"
            />{/if}
        {/each}
        <path d="M0 25.5 H{wide * 12}" stroke="var(--color-rule)" vector-effect="non-scaling-stroke" />
      </svg>
    {/each}
  </div>
  {#if bands.length > many}<button type="button" class="linked" onclick={() => (whole = !whole)}
      >{whole ? `The first ${many} machines` : `All ${bands.length} machines`}</button
    >{/if}
{/if}

<style>
  .bands {
    display: grid;
    grid-template-columns: minmax(90px, 190px) minmax(0, 1fr);
    gap: 0 16px;
    align-items: center;
    max-width: 1100px;
  }
  .months {
    display: grid;
    grid-template-columns: repeat(12, minmax(0, 1fr));
  }
  .months button {
    min-height: 44px;
    font-stretch: 75%;
    font-size: 16px;
    cursor: pointer;
    border-bottom: 4px solid transparent;
  }
  .months button[aria-pressed='true'] {
    border-color: var(--color-ink);
    font-weight: 700;
  }
  .name {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    font-stretch: 75%;
    font-weight: 600;
  }
  svg {
    display: block;
    width: 100%;
    height: 30px;
  }
  @media (max-width: 600px) {
    .bands {
      grid-template-columns: minmax(0, 1fr);
    }
    .bands > span:first-child {
      display: none;
    }
    .months button {
      font-stretch: 62%;
      font-size: 14px;
    }
  }
</style>
