<!-- Every key there is. -->
<script lang="ts">
  import { help, setSingleKeys, singleKeys } from '../data/state.svelte'

  let dialog = $state<HTMLDialogElement>()
  $effect(() => {
    if (help.shown && dialog && !dialog.open) dialog.showModal()
    if (!help.shown && dialog?.open) dialog.close()
  })
  const keys: [string, string][] = [
    ['b', 'Bench'],
    ['m', 'Mix'],
    ['t', 'Tape'],
    ['w', 'Water'],
    ['l', 'Log'],
    ['a', 'Add a machine'],
    ['p', 'Preferences'],
    ['/', 'Filter the bench'],
    ['2 … 9', 'on a key of the stub: log as many at once'],
    ['+ −', 'on the tape: show less or more; arrows: the chosen task on another day'],
    ['space', 'in a run: the main button'],
    ['p', 'in a run: hold, at once'],
    ['n', 'in a run: no pressure'],
    ['d', 'in a run: nothing came out at the drain'],
    ['c', 'in a run: I am called away'],
    ['x', 'in a run: I cannot go on'],
    ['h', 'in a run: something is wrong'],
    ['s', 'in a run: sound on or off'],
    ['w', 'in a run: few words or all of them'],
    ['tab, enter', 'everything else; dotted numbers open'],
    ['?', 'this list'],
  ]
</script>

<dialog bind:this={dialog} class="modal" onclose={() => (help.shown = false)} aria-labelledby="help-title">
  {#if help.shown}
    <div class="modal-box border-ink bg-slip max-w-xl border-2">
      <h2 id="help-title" class="head-voice text-[30px]">Keys</h2>
      <table class="mt-3 w-full">
        <tbody>
          {#each keys as [key, what] (what)}
            <tr class="border-rule border-b"
              ><th class="num-voice w-32 py-1.5 text-left text-[20px]">{key}</th><td>{what}</td></tr
            >
          {/each}
        </tbody>
      </table>
      <label class="mt-3 flex min-h-11 items-center gap-3 font-semibold"
        ><input
          class="size-6 accent-[var(--color-act)]"
          type="checkbox"
          checked={singleKeys.on}
          onchange={(e) => setSingleKeys(e.currentTarget.checked)}
        /> Single keys work (space in a run always does)</label
      >
      <button type="button" class="btn btn-primary mt-5" onclick={() => (help.shown = false)}>Close</button>
    </div>
  {/if}
</dialog>
