<!-- Where the liquid of a descale is and goes now: what it is drawn from, the circuits, what it runs into. Areas are volumes; acid is hatched, water waved. -->
<script lang="ts">
  import type { Schemas } from './api'
  import { amount, round } from './format'

  let { descale, moving = false }: { descale: Schemas['RunDescale']; moving?: boolean } = $props()
  const id = $props.id()
  const kinds = ['source', 'circuit', 'catch'] as const
  // a catch that is not in use is left out
  const of = (kind: (typeof kinds)[number]) => descale.vessels.filter((v) => v.kind === kind && (kind !== 'catch' || touched.has(v.id) || v.litres > 0.001))
  const tall = 66
  const scale = $derived(tall / Math.sqrt(Math.max(...descale.vessels.filter((v) => v.kind !== 'source').map((v) => v.holds_l), 0.5)))
  const side = (v: Schemas['VesselNow']) => Math.min(90, Math.max(26, Math.sqrt(v.holds_l) * scale))
  const touched = $derived(new Set(descale.moves.flatMap((m) => [m.from, m.through, m.to]).filter(Boolean)))
  const drains = $derived(descale.moves.some((m) => m.kind === 'drains'))
  const draws = $derived(descale.moves.some((m) => m.kind === 'pushes' || m.kind === 'fills'))
  const pushes = $derived(descale.moves.some((m) => m.kind === 'pushes'))
  const what = (v: Schemas['VesselNow']) => (v.litres < 0.001 ? 'empty' : v.sour ? (v.acid < 0.01 ? 'a trace of acid' : `acid, ${round(v.acid * 100)} %`) : 'water')
</script>

<div class="map" role="img" aria-label={descale.vessels.map((v) => `${v.title}: ${v.litres.toFixed(2)} of ${v.holds_l.toFixed(2)} litres, ${what(v)}`).join('; ')}>
  {#each kinds as kind, i (kind)}
    {#if i > 0}
      <svg class="arrow" class:go={kind === 'circuit' ? draws : drains || pushes} class:moving width="56" height="20" viewBox="0 0 56 20" aria-hidden="true"><path d="M2 10H48M40 3l10 7-10 7" fill="none" stroke="currentColor" stroke-width="4" /></svg>
    {/if}
    <div class="kind">
      {#each of(kind) as v (v.id)}
        {@const s = side(v)}
        {@const level = s * Math.min(1, v.litres / v.holds_l)}
        <figure class:touched={touched.has(v.id)}>
          <svg width={s + 4} height={s + 4} aria-hidden="true">
            <defs>
              <pattern id="{id}-acid" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)"><path d="M1 0V7" stroke="currentColor" stroke-width="2.4" /></pattern>
              <pattern id="{id}-water" width="14" height="8" patternUnits="userSpaceOnUse"><path d="M0 4q3.5-5 7 0t7 0" fill="none" stroke="currentColor" stroke-width="1.5" /></pattern>
            </defs>
            <rect class:acid={v.sour} x="2" y={2 + s - level} width={s} height={level} fill="url(#{id}-{v.sour ? 'acid' : 'water'})" />
            <path d="M2 {2 + s - level}H{2 + s}" class="level" />
            <rect x="2" y="2" width={s} height={s} fill="none" stroke="currentColor" stroke-width="3" />
          </svg>
          <figcaption><b>{v.title}</b><br />{amount(v.litres, 'L')} of {amount(v.holds_l, 'L')}<br />{what(v)}</figcaption>
        </figure>
      {/each}
    </div>
  {/each}
</div>

<style>
  .map {
    display: flex;
    flex-wrap: wrap;
    align-items: flex-end;
    gap: 8px 16px;
  }
  .kind {
    display: flex;
    align-items: flex-end;
    gap: 8px 20px;
  }
  figcaption {
    margin-top: 3px;
    min-height: 3.5em;
  }
  figcaption {
    font-size: 14px;
    line-height: 1.25;
    font-stretch: 80%;
  }
  .touched figcaption b {
    text-decoration: underline;
    text-decoration-thickness: 2px;
    text-underline-offset: 2px;
  }
  .acid {
    color: var(--color-stop);
  }
  .level {
    stroke: var(--color-act);
    stroke-width: 3;
  }
  .arrow {
    margin-bottom: 70px;
    opacity: 0.25;
  }
  .arrow.go {
    opacity: 1;
    color: var(--color-act);
  }
  :global(.inverse) .arrow.go,
  :global(.inverse) .level {
    color: currentColor;
    stroke: currentColor;
  }
  :global(.inverse) .acid {
    color: currentColor;
  }
  @media (prefers-reduced-motion: no-preference) {
    .arrow.moving.go {
      animation: flow 1s linear infinite;
    }
  }
  @keyframes flow {
    from {
      transform: translateX(-6px);
    }
    to {
      transform: translateX(6px);
    }
  }
  @media (max-width: 600px) {
    .map {
      flex-wrap: nowrap;
      gap: 6px;
    }
    .kind {
      gap: 6px 10px;
    }
    figure svg {
      zoom: 0.6;
    }
    figcaption {
      font-size: 12px;
      font-stretch: 72%;
    }
    .arrow {
      width: 24px;
      flex: none;
      margin-bottom: 56px;
    }
  }
</style>
