<!-- What is in the tub: said anew whenever it is weighed or changed. -->
<script lang="ts">
  import { untrack } from 'svelte'
  import { ask, client, newId, type Schemas } from '../../data/api'
  import { Act } from '../../data/resource.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { prefs } from '../../data/state.svelte'

  let { tub, onsaid }: { tub?: Schemas['Tub']; onsaid: () => void } = $props()
  const was = untrack(() => tub)
  let form = $state<Schemas['Tub']['form']>(was?.form ?? 'powder')
  let amount = $state<number | null>(null)
  let holds = $state<number | null>(was?.holds ?? null)
  let tsp = $state<number | null>(was?.powder_g_tsp ?? 6)
  let opened = $state(was?.opened ?? '')
  let price = $state<number | null>(was?.price || null)
  const act = new Act()
  let id = newId()
  const unit = $derived(form === 'tablets' ? 'tablets' : 'g')
  const at = (field: string) => (act.problem?.field === field ? act.problem : undefined)
  function take(m: Schemas['Meant'], field: string) {
    if (field === 'amount') amount = m.value
    if (field === 'holds') holds = m.value
    if (field === 'powder_g_tsp') tsp = m.value
    act.problem = undefined
  }

  async function say(event: SubmitEvent) {
    event.preventDefault()
    if (amount === null || holds === null || !opened) {
      const [field, what] =
        amount === null
          ? ['amount', 'what is in it now']
          : holds === null
            ? ['holds', 'what a full one holds']
            : ['opened', 'the day it was opened']
      act.problem = {
        type: 'about:blank',
        title: `Say ${what}`,
        status: 0,
        code: 'missing',
        field,
        says: `Say ${what}.`,
      }
      return
    }
    const body = { id, form, amount, holds, powder_g_tsp: tsp ?? 6, opened, price: price ?? 0 }
    await act.try(async () => {
      await ask(client.POST('/tubs', { body }))
      id = newId()
      onsaid()
    })
  }
</script>

<form class="for-keeper grid gap-3" onsubmit={say} novalidate>
  <div class="flex" role="radiogroup" aria-label="How the detergent comes">
    {#each [['powder', 'powder'], ['tablets', 'tablets']] as const as [f, text] (f)}
      <label class="pick grow"
        ><input class="sr-only" type="radio" name="form" value={f} bind:group={form} />{text}</label
      >
    {/each}
  </div>
  <label>In it now, {unit} <input type="number" step="any" bind:value={amount} /></label>
  <ProblemNote problem={at('amount')} {take} />
  <label>A full one holds, {unit} <input type="number" step="any" bind:value={holds} /></label>
  <ProblemNote problem={at('holds')} {take} />
  {#if form === 'powder'}
    <label>A level teaspoon weighs, g <input type="number" step="any" bind:value={tsp} /></label>
    <ProblemNote problem={at('powder_g_tsp')} {take} />
  {/if}
  <label>Opened on <input type="date" bind:value={opened} /></label>
  <ProblemNote problem={at('opened')} {take} />
  <label
    >A full one costs, {prefs.currency} (may stay empty)
    <input type="number" step="any" bind:value={price} /></label
  >
  <ProblemNote problem={at('price')} {take} />
  {#if !act.problem?.field}<ProblemNote problem={act.problem} />{/if}
  <button class="btn btn-outline btn-primary justify-self-start">Save the tub</button>
</form>

<style>
  label:not(.pick) {
    display: grid;
    grid-template-columns: 1fr 150px;
    align-items: center;
    gap: 12px;
    font-size: 16px;
  }
</style>
