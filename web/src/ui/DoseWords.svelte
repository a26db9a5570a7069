<!-- A dose in the words of the card: ½ tsp, or 1 tablet. -->
<script lang="ts">
  import type { Schemas } from '../data/api'
  import Fraction from './Fraction.svelte'

  let { dose }: { dose: Pick<Schemas['Dose'], 'form' | 'tablets' | 'pinch' | 'spoon'> } = $props()
  const words = $derived(dose.form === 'tablets' ? `${dose.tablets} tablet` : dose.pinch ? 'a pinch' : '')
</script>

{#if words}{words}{:else}<Fraction spoon={dose.spoon} /> tsp{/if}
