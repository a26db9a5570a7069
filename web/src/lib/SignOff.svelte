<!-- A technician vouches, by name, that nothing is left in a part: no detergent or pressure in a group, no acid in the machine. -->
<script lang="ts">
  import { ask, client, newId, problemOf, type Problem } from './api'
  import { groupOf } from './format'
  import ProblemNote from './ProblemNote.svelte'

  let { machine, part, onsigned }: { machine: string; part: string; onsigned: () => void } = $props()
  let name = $state('')
  let note = $state('')
  let problem = $state<Problem>()
  const id = newId()
  const group = $derived(groupOf(part))

  async function sign(event: SubmitEvent) {
    event.preventDefault()
    try {
      await ask(client.POST('/machines/{machine_id}/sign-offs', { params: { path: { machine_id: machine } }, body: { id, part, name, note } }))
      onsigned()
    } catch (error) {
      problem = problemOf(error)
    }
  }
</script>

<details>
  <summary class="cursor-pointer py-1"><b>Sign off {group > 0 ? `group ${group}` : 'the machine'} as a technician</b></summary>
  <form class="mt-3 grid max-w-xl gap-3" onsubmit={sign} novalidate>
    <p>{group > 0 ? 'Only if you have seen to it that no detergent is left and no pressure stands: the group opened, rinsed through, the valve working.' : 'Only if you have seen to it that no acid is left: every circuit rinsed, its pH that of the water that goes in.'}</p>
    <label>Your name <input bind:value={name} maxlength="80" /></label>
    <label>What was done <input bind:value={note} maxlength="500" /></label>
    {#if problem}<ProblemNote {problem} />{/if}
    <button class="btn btn-error justify-self-start">Nothing is left in it: sign off</button>
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
