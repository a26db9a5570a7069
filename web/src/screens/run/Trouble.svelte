<!-- What may go wrong in the middle, and what to do. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { p } from '../../router'

  let { run, dialog = $bindable() }: { run: Schemas['Run']; dialog?: HTMLDialogElement } = $props()
</script>

<dialog bind:this={dialog} class="modal" aria-labelledby="trouble-title">
  <div class="modal-box border-ink bg-slip max-w-2xl border-2">
    <h2 id="trouble-title" class="head-voice text-[30px]">Something is wrong</h2>
    {#each run.help as h (h.title)}
      <details class="border-rule border-b py-1">
        <summary class="min-h-11 cursor-pointer py-2 text-[19px]"
          ><b class:text-stop={h.verdict === 'stop'}>{h.title}</b></summary
        >
        {#each h.because as r}<p class="mb-1">{r.text}</p>{/each}
        {#each h.next ?? [] as n}<p class="mb-1"><b>{n}</b></p>{/each}
      </details>
    {/each}
    <a
      class="mt-3 inline-flex min-h-11 items-center text-[19px] underline underline-offset-4"
      href="{p('/machines/:id/diagnose', { params: { id: run.machine_id } })}?run={run.id}"
      >It is something else: look for the cause</a
    >
    <div>
      <button type="button" class="btn btn-primary mt-3" onclick={() => dialog?.close()}>Go on with the run</button>
    </div>
  </div>
</dialog>
