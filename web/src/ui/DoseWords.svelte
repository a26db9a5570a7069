<!-- A dose in the words of the card: ½ tsp, or 1 tablet. -->
<script lang="ts">
  import type { Schemas } from '../data/api'
  import Fraction from './Fraction.svelte'

  let { dose }: { dose: Pick<Schemas['Dose'], 'form' | 'tablets' | 'pinch' | 'spoon'> } = $props()
</script>

{#if dose.form === 'tablets'}{dose.tablets} tablet{:else if dose.pinch}a pinch{:else}<Fraction spoon={dose.spoon} /> tsp{/if}
