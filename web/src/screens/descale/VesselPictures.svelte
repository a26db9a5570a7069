<!-- The vessels of a machine to one scale: areas are volumes. Solution is hatched, what stays after draining is
     dotted. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { amount, round } from '../../ui/format'

  let { needs }: { needs: Schemas['DescaleNeed'][] } = $props()
  const id = $props.id()
  const list = $derived(
    needs.flatMap((n) => Array.from({ length: n.count }, (_, i) => ({ ...n, key: `${n.title} ${i}` }))),
  )
  // a square of side √V; the largest is 150 high
  const scale = $derived(150 / Math.sqrt(Math.max(...list.map((n) => n.litre))))
  const side = (n: { litre: number }) => Math.max(12, Math.sqrt(n.litre) * scale)
</script>

<div
  class="row"
  role="img"
  aria-label={needs
    .map((n) => `${n.title}${n.count > 1 ? `, ${n.count} of them` : ''}: holds ${n.litre.toFixed(2)} litres`)
    .join('; ')}
>
  {#each list as n (n.key)}
    {@const s = side(n)}
    <figure>
      <svg width={s + 4} height={s + 4} aria-hidden="true">
        <defs>
          <pattern id="{id}-s" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)"
            ><path d="M1 0V7" stroke="currentColor" stroke-width="1.6" /></pattern
          >
          <pattern id="{id}-h" width="7" height="7" patternUnits="userSpaceOnUse"
            ><circle cx="3.5" cy="3.5" r="1.3" fill="currentColor" /></pattern
          >
        </defs>
        <rect x="2" y="2" width={s} height={s * (1 - n.heel)} fill="url(#{id}-s)" />
        <rect x="2" y={2 + s * (1 - n.heel)} width={s} height={s * n.heel} fill="url(#{id}-h)" />
        <rect x="2" y="2" width={s} height={s} fill="none" stroke="currentColor" stroke-width="2.5" />
      </svg>
      <figcaption>
        <b>{n.title}</b><br />{amount(n.litre, 'L')}{#if n.heel > 0}, {round(n.heel * 100)} % stays{/if}
      </figcaption>
    </figure>
  {/each}
</div>

<style>
  .row {
    display: flex;
    flex-wrap: wrap;
    align-items: flex-end;
    gap: 16px 28px;
  }
  figure {
    display: flex;
    flex-direction: column;
    align-items: flex-start;
  }
  figcaption {
    margin-top: 4px;
    font-size: 15px;
    line-height: 1.2;
  }
</style>
