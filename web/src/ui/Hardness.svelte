<!-- One hardness in all units and on both class scales. -->
<script lang="ts">
  import type { Schemas } from '../data/api'
  import { round, short } from './format'
  import Num from './Num.svelte'
  import { prefs } from '../data/state.svelte'

  let { hardness }: { hardness: Schemas['HardnessShown'] } = $props()
  // the preferred unit first
  const units = $derived(
    [...hardness.units].sort((a, b) => Number(b.unit === prefs.hardness) - Number(a.unit === prefs.hardness)),
  )
  const spread = (c: Schemas['HardnessClass']) => (c.low === c.high ? '' : ` (${c.low} to ${c.high})`)
</script>

<div class="grid grid-cols-3 gap-x-4 gap-y-1.5">
  {#each units as u (u.unit)}
    <div>
      <span class="num-voice text-[21px]"
        ><Num worked={u.likely} text={(u.likely.value >= 100 ? round : short)(u.likely.value)} /></span
      >
      <span class="label-voice">{u.symbol}</span>
    </div>
  {/each}
</div>
<p class="mt-2">
  <b>{hardness.usgs.likely}</b>{spread(hardness.usgs)}
  <span class="text-ink-2 text-[15px]">by the US Geological Survey</span>
</p>
<p>
  <b>{hardness.wrmg.likely}</b>{spread(hardness.wrmg)}
  <span class="text-ink-2 text-[15px]">by the German act of 2007</span>
</p>
{#if !hardness.known}<p class="mt-1 text-[15px]">{hardness.note}</p>{/if}
