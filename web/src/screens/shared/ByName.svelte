<!-- Somebody answers for something by name: what it means, the name, a sentence, one press. -->
<script lang="ts">
  import {} from '../../data/api'
  import { Act } from '../../data/resource.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  let {
    title,
    means,
    asks,
    button,
    whose,
    send,
  }: {
    title: string
    means: string
    asks: string
    button: string
    whose: 'closer' | 'keeper'
    send: (name: string, said: string) => Promise<void>
  } = $props()
  let name = $state('')
  let said = $state('')
  const act = new Act()

  async function submit(event: SubmitEvent) {
    event.preventDefault()
    await act.try(async () => {
      await send(name, said)
    })
  }
</script>

<details class="for-{whose}">
  <summary class="cursor-pointer py-1"><b>{title}</b></summary>
  <form class="mt-3 grid max-w-xl gap-3" onsubmit={submit} novalidate>
    <p>{means}</p>
    <label class="field">Your name <input bind:value={name} maxlength="80" /></label>
    <label class="field">{asks} <input bind:value={said} maxlength="500" /></label>
    <ProblemNote problem={act.problem} />
    <button class="btn btn-error justify-self-start">{button}</button>
  </form>
</details>
