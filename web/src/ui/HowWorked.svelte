<!-- How a number was worked out: inputs, formula, source, what would change it. -->
<script lang="ts">
  import { amount, preferred, source, spreads, told } from './format'
  import { opened } from '../data/state.svelte'

  let dialog = $state<HTMLDialogElement>()
  const top = $derived(opened.path.at(-1))
  $effect(() => {
    if (top && dialog && !dialog.open) dialog.showModal()
    if (!top && dialog?.open) dialog.close()
  })
  const back = () => (opened.path = opened.path.slice(0, -1))
</script>

<dialog bind:this={dialog} class="modal" onclose={() => (opened.path = [])} aria-labelledby="worked-name">
  {#if top}
    {@const w = top.worked}
    {@const shown = preferred(w.value, w.unit)}
    <div class="modal-box border-ink bg-slip text-ink max-w-2xl border-2 p-0">
      <div class="border-ink border-b-2 px-7 pt-5 pb-4">
        <div class="label-voice">How it was worked out</div>
        <h2 id="worked-name" class="head-voice text-[26px]">{w.name}</h2>
        <div class="huge-voice mt-3 text-[64px]">{told(w)} <span class="text-[34px]">{shown.unit}</span></div>
        {#if w.low !== w.high}
          <div class="mt-1">
            between <b>{told(w, w.low)}</b> and <b>{told(w, w.high)}</b>
            {shown.unit}{w.spread ? `: ${spreads[w.spread]}` : ''}
          </div>
        {/if}
        {#if top.limit}<div class="mt-1">{top.limit}</div>{/if}
      </div>
      <div class="px-7 py-4">
        <p class="bg-paper border-rule border px-3 py-2 break-words"><b>{w.formula}</b></p>
        <table class="mt-3 w-full">
          <tbody>
            {#each w.inputs as input (input.symbol)}
              <tr class="border-rule border-b align-baseline">
                <th class="py-1.5 pr-3 text-left font-bold">{input.symbol}</th>
                <td class="py-1.5 pr-3"
                  >{input.label}<span class="label-voice block">{source(input.source)}</span></td
                >
                <td class="num-voice py-1.5 text-right whitespace-nowrap">
                  {#if input.worked}
                    {@const inner = input.worked}
                    <button
                      type="button"
                      class="text-act cursor-pointer underline underline-offset-4"
                      onclick={() => (opened.path = [...opened.path, { worked: inner }])}
                      >{amount(input.value, input.unit)}</button
                    >
                  {:else}{amount(input.value, input.unit)}{#if input.range}<span class="label-voice block"
                        >{amount(input.range.low, '')} to {amount(input.range.high, input.unit)}</span
                      >{/if}{/if}
                </td>
              </tr>
            {/each}
          </tbody>
        </table>
        <p class="mt-4"><span class="label-voice block">Source</span>{source(w.source)}</p>
        <div class="mt-3">
          <span class="label-voice block">What would change it</span>
          <ul>
            {#each w.would_change as change (change)}<li>{change}</li>{/each}
          </ul>
        </div>
        <div class="mt-5 flex gap-3">
          {#if opened.path.length > 1}<button type="button" class="btn btn-outline btn-primary" onclick={back}
              >Back</button
            >{/if}
          <button type="button" class="btn btn-primary" onclick={() => (opened.path = [])}>Close</button>
          <button type="button" class="btn btn-outline btn-primary" onclick={() => print()}>Print</button>
        </div>
      </div>
    </div>
    <form method="dialog" class="modal-backdrop"><button tabindex="-1" aria-label="Close">Close</button></form>
  {/if}
</dialog>
