<!-- Which descaler, how strong, or another one by its label. -->
<script lang="ts">
  import { ask, client, newId, type Schemas } from '../../data/api'
  import { Act } from '../../data/resource.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  let {
    products,
    product,
    strength,
    usual,
    onpick,
  }: {
    products: Schemas['Products']
    product: string
    strength: number | undefined
    usual: number | undefined
    onpick: (product: string, strength: number | undefined, products?: Schemas['Products']) => void
  } = $props()
  const blank = {
    name: '',
    form: 'powder' as Schemas['Product']['form'],
    acid: 'citric' as Schemas['Product']['parts'][number]['acid'],
    grams: 1,
    litre: 30,
  }
  let own = $state({ ...blank })
  let adding = $state(false)
  const act = new Act()
  const units: Record<Schemas['Product']['form'], string> = { powder: 'g', sachets: 'sachets', liquid: 'mL' }

  async function keep() {
    await act.try(async () => {
      const fresh: Schemas['Product'] = {
        id: newId(),
        name: own.name.trim(),
        form: own.form,
        parts: [{ acid: own.acid, grams: own.grams }],
        a_litre: own.litre,
      }
      const all = await ask(client.POST('/products', { body: fresh }))
      adding = false
      own = { ...blank }
      onpick(fresh.id, undefined, all)
    })
  }
</script>

<div class="flex flex-wrap gap-4">
  <label class="field"
    >Product
    <select value={product} onchange={(e) => onpick(e.currentTarget.value, undefined)}>
      {#each [...products.generic, ...products.own] as q (q.id)}<option value={q.id}>{q.name}</option>{/each}
    </select></label
  >
  <label class="field"
    >acid, g/L<input
      type="number"
      step="any"
      min="1"
      value={strength ?? usual}
      onchange={(e) => onpick(product, Number(e.currentTarget.value) || undefined)}
    /></label
  >
  <button
    type="button"
    class="for-keeper btn btn-outline btn-primary self-end"
    aria-expanded={adding}
    onclick={() => (adding = !adding)}>{adding ? 'No other' : 'Another product'}</button
  >
</div>
<ProblemNote problem={act.problem} />
{#if adding}
  <form
    class="mt-3 flex flex-wrap items-end gap-4"
    onsubmit={(e) => {
      e.preventDefault()
      void keep()
    }}
  >
    <label class="field">What it is called<input bind:value={own.name} maxlength="80" /></label>
    <label class="field"
      >It is<select bind:value={own.form}
        ><option value="powder">a powder</option><option value="sachets">sachets</option><option value="liquid"
          >a liquid</option
        ></select
      ></label
    >
    <label class="field"
      >of<select bind:value={own.acid}
        ><option value="citric">citric acid</option><option value="lactic">lactic acid</option><option
          value="sulfamic">sulfamic acid</option
        ><option value="acetic">acetic acid</option></select
      ></label
    >
    <label class="field"
      >acid, g in {own.form === 'powder' ? 'a gram' : own.form === 'sachets' ? 'a sachet' : 'a millilitre'}<input
        type="number"
        step="any"
        bind:value={own.grams}
      /></label
    >
    <label class="field"
      >{units[own.form]} a litre, by its label<input type="number" step="any" bind:value={own.litre} /></label
    >
    <button class="btn btn-primary" disabled={own.name.trim() === ''}>Save it</button>
  </form>
{/if}

<style>
  .field input,
  .field select {
    min-width: 130px;
  }
  .field input[type='number'] {
    width: 130px;
  }
</style>
