<!-- A look that stops the machine: switched off, not used, until somebody entitled signs or the look is taken back.
     -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { p } from '../../router'

  let { walk, machine, onback }: { walk: Schemas['Walk']; machine: string; onback: (look: string) => void } =
    $props()
  const stopping = $derived(walk.cards.find((c) => c.fresh && c.last?.do === 'Stop'))
</script>

<div class="halt" role="alert">
  <p class="label-voice text-ink">{walk.machine_name}</p>
  <h1 class="huge-voice text-[clamp(44px,8vw,104px)]">Switch off.<br />Do not use it.</h1>
  <p class="mt-4 max-w-3xl text-[22px]">
    <b>{walk.stopped}.</b> Pull the plug, with dry hands. Nothing is led on it before a technician has seen it and signs
    for it by name, on the machine’s page.
  </p>
  <div class="mt-6 flex flex-wrap gap-4">
    <a class="btn btn-outline" href={p('/machines/:id', { params: { id: machine } })}>To the machine’s page</a>
    {#if stopping?.last}{@const look = stopping.last.id}<button
        type="button"
        class="btn btn-outline"
        onclick={() => onback(look)}>I was wrong: take this look back</button
      >{/if}
  </div>
</div>

<style>
  .halt {
    flex-grow: 1;
    padding: clamp(20px, 4vw, 56px);
    border: 12px solid var(--color-stop);
  }
</style>
