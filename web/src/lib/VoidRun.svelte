<!-- Somebody ends a run by name that cannot be ended otherwise. -->
<script lang="ts">
  import { ask, client, problemOf, type Problem } from './api'
  import ProblemNote from './ProblemNote.svelte'

  let { run, onended }: { run: string; onended: () => void } = $props()
  let name = $state('')
  let why = $state('')
  let problem = $state<Problem>()

  async function end(event: SubmitEvent) {
    event.preventDefault()
    try {
      await ask(client.POST('/runs/{run_id}/void', { params: { path: { run_id: run } }, body: { name, why } }))
      onended()
    } catch (error) {
      problem = problemOf(error)
    }
  }
</script>

<details>
  <summary class="cursor-pointer py-1"><b>End this run by name</b></summary>
  <form class="mt-3 grid max-w-xl gap-3" onsubmit={end} novalidate>
    <p>It ends as stopped, unsafe. Whatever it put into the machine stays on record as inside, until it is rinsed or signed off.</p>
    <label>Your name <input bind:value={name} maxlength="80" /></label>
    <label>Why it cannot go on <input bind:value={why} maxlength="500" /></label>
    {#if problem}<ProblemNote {problem} />{/if}
    <button class="btn btn-error justify-self-start">End the run</button>
  </form>
</details>

<style>
  label {
    display: grid;
    gap: 4px;
    font-weight: 600;
  }
  input {
    height: 46px;
    padding: 0 12px;
    border: 1.5px solid var(--color-ink);
    background: var(--color-slip);
  }
</style>
