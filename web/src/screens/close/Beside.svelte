<!-- Beside tonight's jobs: what is done after each drink, the nights before, and where else to go. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { weekday } from '../../ui/format'
  import { p } from '../../router'
  import StartWash from '../shared/StartWash.svelte'
  import { me } from '../../data/me.svelte'
  import NightStrip from './NightStrip.svelte'

  let { c, bar }: { c: Schemas['Closing']; bar: boolean } = $props()
</script>

{#if c.after_drink}
  <h2 class="head-voice text-[26px]">After each drink</h2>
  <p class="mb-2">{c.after_drink.how}</p>
  {#if !c.open_run}<StartWash
      machine={c.machine_id}
      parts={c.groups}
      task="wash"
      method="water_only"
      more={{ pulses: 2 }}
      text="Lead two pulses"
      line
    />{/if}
{/if}
<h2 class="head-voice text-[26px]" class:mt-6={c.after_drink}>The nights before</h2>
<NightStrip nights={c.nights} zone={c.zone} />
<div class="mt-6 flex flex-wrap gap-3">
  {#if bar && me.value?.device}<a class="btn btn-outline btn-primary" href="{p('/bar')}?choose">Another machine</a>
  {:else if bar}<a
      class="btn btn-outline btn-primary"
      href={p('/machines/:id/close', { params: { id: c.machine_id } })}>All screens</a
    >
  {:else}
    <a class="btn btn-outline btn-primary" href={p('/machines/:id/bar', { params: { id: c.machine_id } })}
      >Show only this, on a bar tablet</a
    >
    <a class="btn btn-outline btn-primary" href={p('/machines/:id/wall', { params: { id: c.machine_id } })}
      >A card for the wall</a
    >
    <a class="btn btn-outline btn-primary" href={p('/preferences')}>Who closes</a>
  {/if}
</div>
<p class="label-voice mt-3">Keys 1 to {c.jobs.length} tick. {weekday(c.day, c.zone)} turns at 04:00.</p>
