<!-- Somebody ends a run by name that cannot be ended otherwise. -->
<script lang="ts">
  import { ask, client } from '../../data/api'
  import ByName from './ByName.svelte'

  let { run, onended }: { run: string; onended: () => void } = $props()

  async function end(name: string, why: string) {
    await ask(client.POST('/runs/{run_id}/void', { params: { path: { run_id: run } }, body: { name, why } }))
    onended()
  }
</script>

<ByName
  title="End this run by name"
  means="It ends as stopped, unsafe. What it put in stays on record as inside, until it is rinsed or signed off."
  asks="Why it cannot go on"
  button="End the run"
  whose="closer"
  send={end}
/>
