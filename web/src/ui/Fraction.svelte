<!-- A number of spoons with its fraction as stacked digits. -->
<script lang="ts">
  import type { Schemas } from '../data/api'

  let { spoon }: { spoon: Schemas['Spoon'] } = $props()
  const words = $derived(`${spoon.whole || ''}${spoon.num ? ` ${spoon.num}/${spoon.den}` : ''} teaspoon`)
</script>

<span class="all" role="img" aria-label={words}>
  {#if spoon.whole}<span>{spoon.whole}</span>{/if}
  {#if spoon.num}<span class="frac"><span>{spoon.num}</span><span class="bar"></span><span>{spoon.den}</span></span
    >{/if}
</span>

<style>
  .all {
    display: inline-flex;
    align-items: center;
    gap: 0.08em;
    vertical-align: 0.2em;
  }
  .frac {
    display: inline-flex;
    flex-direction: column;
    align-items: center;
    font-size: 0.62em;
    line-height: 0.8;
  }
  .bar {
    width: 100%;
    height: 0.09em;
    margin: 0.09em 0 0.07em;
    background: currentColor;
  }
</style>
