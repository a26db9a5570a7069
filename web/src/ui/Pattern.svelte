<!-- How a clock is filled, everywhere the same: shots ticks, coffee lozenges, litres waves, scale hatching, a
     counter's pairs, days dots. -->
<svelte:options namespace="svg" />

<script lang="ts">
  import type { Schemas } from '../data/api'

  let { id, kind }: { id: string; kind: Schemas['ClockKind'] } = $props()
</script>

{#if kind === 'shots'}
  <pattern {id} width="5" height="16" patternUnits="userSpaceOnUse"
    ><path d="M2 1v14" stroke="currentColor" stroke-width="2" /></pattern
  >
{:else if kind === 'coffee'}
  <pattern {id} width="9" height="8" patternUnits="userSpaceOnUse"
    ><path d="M4.5 .8l3.6 3.2-3.6 3.2-3.6-3.200z" fill="none" stroke="currentColor" stroke-width="1.4" /></pattern
  >
{:else if kind === 'litres'}
  <pattern {id} width="14" height="8" patternUnits="userSpaceOnUse"
    ><path d="M0 4q3.5-5 7 0t7 0" fill="none" stroke="currentColor" stroke-width="1.8" /></pattern
  >
{:else if kind === 'scale'}
  <pattern {id} width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)"
    ><path d="M1.5 0V6" stroke="currentColor" stroke-width="1.8" /></pattern
  >
{:else if kind === 'counter'}
  <pattern {id} width="11" height="16" patternUnits="userSpaceOnUse"
    ><path d="M2 1v14M5 1v14" stroke="currentColor" stroke-width="1.6" /></pattern
  >
{:else}
  <pattern {id} width="8" height="8" patternUnits="userSpaceOnUse"
    ><circle cx="4" cy="4" r="2.1" fill="currentColor" /></pattern
  >
{/if}
