<!-- How much of the descaler in how much water: the number to read at arm's length. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { measured, poured, round } from '../../ui/format'
  import Num from '../../ui/Num.svelte'
  import SpoonPicture from '../../ui/SpoonPicture.svelte'

  let { c }: { c: Schemas['DescaleCard'] } = $props()
  const spare = $derived(c.mixed.value > c.solution.value * 1.01)
</script>

<div class="flex items-center gap-6">
  <h2 class="huge-voice amount"><Num worked={c.measure} text={measured(c.measure)} /></h2>
  {#if c.product.form === 'powder' && c.spoons}<span class="head-voice text-[40px]">{round(c.spoons.value)} ×</span
    ><SpoonPicture spoon={{ whole: 1, num: 0, den: 1 }} height={96} />{/if}
</div>
<p class="head-voice text-[28px]">
  {c.product.name.toLowerCase()} in <Num worked={c.mixed} text={poured(c.mixed.value)} /> of water, in all{#if spare};
    <Num worked={c.solution} text={poured(c.solution.value)} /> of it goes in{/if}
</p>

<style>
  .amount {
    padding: 10px 0 12px;
    font-size: clamp(84px, 10vw, 140px);
  }
</style>
