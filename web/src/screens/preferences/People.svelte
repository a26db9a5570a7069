<!-- Who does the small jobs: names and initials, no accounts. -->
<script lang="ts">
  import { ask, client, newId, type Schemas } from '../../data/api'
  import { Act } from '../../data/resource.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  let { onchanged }: { onchanged?: () => void } = $props()
  let people = $state<Schemas['Person'][]>([])
  const act = new Act()
  let name = $state('')
  async function change(call: () => Promise<Schemas['People']>) {
    await act.try(async () => {
      people = (await call()).people
    })
  }
  $effect(() => void change(() => ask(client.GET('/people'))))
  async function add(event: SubmitEvent) {
    event.preventDefault()
    await change(() => ask(client.POST('/people', { body: { id: newId(), name: name.trim() } })))
    if (act.problem) return
    name = ''
    onchanged?.()
  }
</script>

<h2 class="head-voice text-[24px]">Who closes</h2>
<p>Names for the close list: whoever stands there taps their initials.</p>
<ul>
  {#each people as x (x.id)}
    <li class="border-rule flex items-center gap-4 border-b py-1">
      <b class="num-voice w-16 text-[22px]">{x.initials}</b><span class="flex-1">{x.name}</span>
      <button
        type="button"
        class="linked px-3"
        onclick={() =>
          change(() => ask(client.DELETE('/people/{person_id}', { params: { path: { person_id: x.id } } })))}
        >Take off the list<span class="sr-only">: {x.name}</span></button
      >
    </li>
  {/each}
</ul>
<form class="mt-3 flex flex-wrap gap-3" onsubmit={add}>
  <input
    class="h-[52px] w-64 text-[18px]"
    maxlength="40"
    bind:value={name}
    aria-label="Name of who closes"
    placeholder="name"
  />
  <button class="btn btn-outline btn-primary" disabled={!name.trim()}>Add</button>
</form>
<ProblemNote problem={act.problem} />
