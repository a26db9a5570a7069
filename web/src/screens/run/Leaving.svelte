<!-- Stop this run? What stays in, and how to leave it. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import DoFirst from '../../ui/DoFirst.svelte'
  import { inWords } from '../../ui/format'

  let {
    run,
    dialog = $bindable(),
    mayRinse,
    onrinse,
    onstop,
  }: {
    run: Schemas['Run']
    dialog?: HTMLDialogElement
    mayRinse: boolean
    onrinse: () => void
    onstop: (nothingIn: boolean) => void
  } = $props()
  function stop(nothingIn: boolean) {
    dialog?.close()
    onstop(nothingIn)
  }
</script>

<dialog bind:this={dialog} class="modal" aria-labelledby="leaving-title">
  <div class="modal-box border-ink bg-slip max-w-xl border-2">
    <h2 id="leaving-title" class="head-voice text-[30px]">Stop this run?</h2>
    {#if run.descale && !run.step.doses}
      <DoFirst list={run.descale.leave} />
    {/if}
    {#if run.step.doses}
      <p class="mt-2">Has any powder gone into the blind? If you are not sure, it counts as in.</p>
      <div class="mt-4 flex flex-wrap gap-3">
        <button type="button" class="btn btn-outline btn-primary" onclick={() => stop(true)}
          >No powder went in</button
        >
        <button type="button" class="btn btn-error" onclick={() => stop(false)}>Powder is in, or may be</button>
        <button type="button" class="btn btn-primary" onclick={() => dialog?.close()}>Go on with the run</button>
      </div>
    {:else if run.descale?.circuits.some((c) => c.in)}
      <p class="mt-2">
        <b>Acid stays in {run.inside.parts}.</b>
        It ends as stopped, unsafe: no drinks from this machine until it is rinsed. Acid eats on, and its gas needs an
        open outlet; never overnight.
      </p>
      <div class="mt-4 flex flex-wrap gap-3">
        <button type="button" class="btn btn-primary" onclick={() => dialog?.close()}>Go on with the run</button>
        <button type="button" class="btn btn-error" onclick={() => stop(false)}>Stop, acid left in</button>
      </div>
    {:else if run.inside.any}
      <p class="mt-2">
        <b>Detergent stays in {inWords(run.groups.filter((g) => g.detergent).map((g) => g.part))}.</b>
        It ends as stopped, unsafe: no drinks from there until it is rinsed. Left in, it dries hard and can freeze the
        valve.
      </p>
      <div class="mt-4 flex flex-wrap gap-3">
        <button type="button" class="btn btn-primary" onclick={() => dialog?.close()}>Go on with the run</button>
        {#if mayRinse}
          <button
            type="button"
            class="btn btn-outline btn-primary"
            onclick={() => {
              dialog?.close()
              onrinse()
            }}>Rinse now and stop</button
          >
        {/if}
        <button type="button" class="btn btn-error" onclick={() => stop(false)}>Stop, detergent left in</button>
      </div>
    {:else}
      <p class="mt-2">
        {run.groups.some((g) => g.outcome === 'done')
          ? 'What is done is written down; the rest does not count.'
          : run.of_machine
            ? 'Nothing is counted as done.'
            : 'No detergent has gone in. Nothing is counted as done.'}
      </p>
      <div class="mt-4 flex flex-wrap gap-3">
        <button type="button" class="btn btn-primary" onclick={() => dialog?.close()}>Go on with the run</button>
        <button type="button" class="btn btn-outline btn-primary" onclick={() => stop(true)}>Stop here</button>
      </div>
    {/if}
  </div>
</dialog>
