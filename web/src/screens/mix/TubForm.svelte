<!-- What is in the tub: said anew whenever it is weighed or changed. -->
<script lang="ts">
  import { untrack } from 'svelte'
  import { ask, client, newId, problemOf, type Problem, type Schemas } from '../../data/api'
  import { prefs } from '../../data/state.svelte'

  let { tub, onsaid }: { tub?: Schemas['Tub']; onsaid: () => void } = $props()
  const was = untrack(() => tub)
  let form = $state<Schemas['Tub']['form']>(was?.form ?? 'powder')
  let amount = $state<number | null>(null)
  let holds = $state<number | null>(was?.holds ?? null)
  let tsp = $state<number | null>(was?.powder_g_tsp ?? 6)
  let opened = $state(was?.opened ?? '')
  let price = $state<number | null>(was?.price || null)
  let problem = $state<Problem>()
  let id = newId()
  const unit = $derived(form === 'tablets' ? 'tablets' : 'g')
  const at = (field: string) =>
    problem?.field === field ? `You gave ${problem.value}. Allowed: ${problem.allowed}.` : ''

  async function say(event: SubmitEvent) {
    event.preventDefault()
    if (amount === null || holds === null || !opened) {
      const [field, what] =
        amount === null
          ? ['amount', 'what is in it now']
          : holds === null
            ? ['holds', 'what a full one holds']
            : ['opened', 'the day it was opened']
      problem = {
        type: 'about:blank',
        title: `${what} is missing`,
        status: 0,
        code: 'missing',
        field,
        value: 'nothing',
        allowed: what ?? '',
      }
      return
    }
    try {
      await ask(
        client.POST('/tubs', { body: { id, form, amount, holds, powder_g_tsp: tsp ?? 6, opened, price: price ?? 0 } }),
      )
      id = newId()
      problem = undefined
      onsaid()
    } catch (error) {
      problem = problemOf(error)
    }
  }
</script>

<form class="grid gap-3" onsubmit={say} novalidate>
  <div class="flex" role="radiogroup" aria-label="How the detergent comes">
    {#each [['powder', 'powder'], ['tablets', 'tablets']] as const as [f, text] (f)}
      <label class="pick"><input class="sr-only" type="radio" name="form" value={f} bind:group={form} />{text}</label>
    {/each}
  </div>
  <label>In it now, {unit} <input type="number" step="any" bind:value={amount} /></label>
  {#if at('amount')}<p class="caution" role="alert">{at('amount')}</p>{/if}
  <label>A full one holds, {unit} <input type="number" step="any" bind:value={holds} /></label>
  {#if at('holds')}<p class="caution" role="alert">{at('holds')}</p>{/if}
  {#if form === 'powder'}
    <label>A level teaspoon weighs, g <input type="number" step="any" bind:value={tsp} /></label>
    {#if at('powder_g_tsp')}<p class="caution" role="alert">{at('powder_g_tsp')}</p>{/if}
  {/if}
  <label>Opened on <input type="date" bind:value={opened} /></label>
  {#if at('opened')}<p class="caution" role="alert">{at('opened')}</p>{/if}
  <label
    >A full one costs, {prefs.currency} (may stay empty) <input type="number" step="any" bind:value={price} /></label
  >
  {#if at('price')}<p class="caution" role="alert">{at('price')}</p>{/if}
  {#if problem && !problem.field}<p class="caution" role="alert">{problem.title}. {problem.detail ?? ''}</p>{/if}
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
  input[type='number'],
  input[type='date'] {
    height: 44px;
    padding: 0 10px;
    border: 1.5px solid var(--color-ink);
    background: var(--color-paper);
    font-weight: 600;
  }
  .pick {
    flex: 1;
    display: grid;
    place-items: center;
    min-height: 44px;
    border: 1.5px solid var(--color-ink);
    margin-left: -1.5px;
    font-weight: 600;
    font-stretch: 80%;
    cursor: pointer;
  }
  .pick:first-child {
    margin-left: 0;
  }
  .pick:has(input:checked) {
    background: var(--color-ink);
    color: var(--color-paper);
  }
  .pick:has(input:focus-visible) {
    outline: 3px solid var(--color-act);
    outline-offset: 2px;
  }
</style>
