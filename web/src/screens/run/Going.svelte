<!-- Called away: for how long, and what to do before. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import DoFirst from '../../ui/DoFirst.svelte'
  import { clock } from '../../ui/format'

  type Minutes = Schemas['Leave']['minutes']
  let {
    run,
    dialog = $bindable(),
    mayRinse,
    onrinse,
    onaway,
  }: {
    run: Schemas['Run']
    dialog?: HTMLDialogElement
    mayRinse: boolean
    onrinse: () => void
    onaway: (of: Minutes) => void
  } = $props()
  function go(of: Minutes) {
    dialog?.close()
    onaway(of)
  }
</script>

<dialog bind:this={dialog} class="modal" aria-labelledby="going-title">
  <div class="modal-box border-ink bg-slip max-w-xl border-2">
    <h2 id="going-title" class="head-voice text-[30px]">For how long?</h2>
    <p class="mt-2">It rings when you should be back. What was begun waits; soaks go on.</p>
    {#if run.absences[0]}<DoFirst list={run.absences[0].do} />{/if}
    <div class="mt-4 grid gap-3">
      {#each run.absences as l (l.minutes)}
        <div>
          <button
            type="button"
            class="btn btn-primary min-w-48"
            disabled={Boolean(l.not)}
            onclick={() => go(l.minutes)}
            >{l.minutes} minutes{#if !l.not}, until {clock(
                new Date(Date.parse(run.server_time) + (l.minutes * 60_000) / run.speed).toISOString(),
                run.zone,
              )}{/if}</button
          >
          {#if l.not}<p class="mt-1 text-[16px]">{l.not}</p>{/if}
        </div>
      {/each}
      {#if mayRinse && run.absences.some((l) => l.not)}<button
          type="button"
          class="btn btn-outline btn-primary justify-self-start"
          onclick={() => {
            dialog?.close()
            onrinse()
          }}>Rinse now, then go</button
        >{/if}
      <form method="dialog"><button class="btn btn-outline btn-primary">Stay here</button></form>
    </div>
  </div>
</dialog>
