<!-- The ways from one machine to what else there is of it. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { p } from '../../router'

  let { m }: { m: Schemas['Machine'] } = $props()
  const to = $derived({ params: { id: m.id } })
</script>

<nav class="ways" aria-label="More of this machine">
  <a class="for-closer" href={p('/machines/:id/walk', to)}>Walk round it</a>
  <a href={p('/machines/:id/diagnose', to)}>Something is wrong</a>
  <a href={p('/machines/:id/water', to)}>Its water</a>
  <a href={p('/machines/:id/descale', to)}>Descale card</a>
  {#if m.plan.wash}<a href={p('/machines/:id/mix', to)}>See the dose</a>{/if}
  <a href={p('/machines/:id/schools', to)}>How often, and how</a>
  <a href={p('/machines/:id/tape', to)}>Its tape</a>
  <a href={p('/machines/:id/card', to)}>Its card</a>
  <a href={p('/machines/:id/close', to)}>Tonight's close</a>
  <a href={p('/machines/:id/rest', to)}>Closed for weeks</a>
  <a href={p('/machines/:id/report', to)}>Report for the owner</a>
  <a href={p('/machines/:id/log', to)}>See its log</a>
</nav>

<style>
  .ways {
    display: flex;
    flex-wrap: wrap;
    gap: 0 26px;
    padding: 6px 32px;
    border-top: 2px solid var(--color-ink);
    border-bottom: 2px solid var(--color-ink);
  }
  .ways a {
    display: inline-flex;
    align-items: center;
    min-height: 44px;
    font-stretch: 82%;
    font-weight: 600;
    text-decoration: underline;
    text-underline-offset: 4px;
    text-decoration-thickness: 1px;
  }
  @media (max-width: 1000px) {
    .ways {
      padding-left: 20px;
      padding-right: 20px;
    }
  }
</style>
