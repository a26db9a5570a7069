<!-- The descale card: who, how much of what, how many fills, how much rinse, and when it may be opened. -->
<script lang="ts">
  import { ask, client, newId, problemOf, type Problem, type Schemas } from '../../data/api'
  import { amount, clock, poured, round, short, weekday } from '../../ui/format'
  import Cautions from '../../ui/Cautions.svelte'
  import DescalePlan from './DescalePlan.svelte'
  import DescaleStart from './DescaleStart.svelte'
  import Facts from '../shared/Facts.svelte'
  import Instead from './Instead.svelte'
  import Num from '../../ui/Num.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { p, route } from '../../router'
  import SpentForm from './SpentForm.svelte'
  import SpoonPicture from '../../ui/SpoonPicture.svelte'
  import VesselPictures from './VesselPictures.svelte'

  let shown = $state<Schemas['MachineDescale']>()
  let products = $state<Schemas['Products']>()
  let product = $state('citric')
  let strength = $state<number>()
  let program = $state<string>()
  let renew = $state(false)
  let wash = $state(false)
  let entitled = $state('') // who records by name to be entitled to descale a trade machine
  let typed = $state('')
  let problem = $state<Problem>()
  let adding = $state(false)
  const blank = { name: '', form: 'powder' as Schemas['Product']['form'], acid: 'citric' as Schemas['Product']['parts'][number]['acid'], grams: 1, litre: 30 }
  let own = $state({ ...blank })
  const id = $derived((route.params as { id?: string }).id ?? '')

  async function attempt(call: () => Promise<void>) {
    try {
      await call()
      problem = undefined
    } catch (error) {
      problem = problemOf(error)
    }
  }
  const load = () =>
    attempt(async () => {
      products ??= await ask(client.GET('/products'))
      shown = await ask(client.GET('/machines/{machine_id}/descale', { params: { path: { machine_id: id }, query: { product, renew, wash, ...(entitled && { entitled }), ...(program && { program }), ...(strength && { strength_g_l: strength }) } } }))
      document.title = `Descale card, ${shown.machine_name} · Fresh Anvil`
    })
  $effect(() => {
    void [id, product, strength, program, renew, wash, entitled]
    void load()
  })
  const keep = () =>
    attempt(async () => {
      const fresh: Schemas['Product'] = { id: newId(), name: own.name.trim(), form: own.form, parts: [{ acid: own.acid, grams: own.grams }], a_litre: own.litre }
      products = await ask(client.POST('/products', { body: fresh }))
      product = fresh.id
      strength = undefined
      adding = false
      own = { ...blank }
    })
  const units: Record<Schemas['Product']['form'], string> = { powder: 'g', sachets: 'sachets', liquid: 'mL' }
  const measured = (w: Schemas['Worked']) => (w.unit === 'sachets' ? `${round(w.value)} ${w.value === 1 ? 'sachet' : 'sachets'}` : amount(w.value >= 10 ? Math.round(w.value) : w.value, w.unit))
</script>

{#if problem}<div class="px-8"><ProblemNote {problem} /></div>{/if}
{#if shown}
  {@const s = shown}
  <div class="px-5 pt-6 pb-16 md:px-8">
    <div class="label-voice"><a class="underline underline-offset-4" href={p('/machines/:id', { params: { id: s.machine_id } })}>{s.machine_name}</a>, descale card</div>
    <section class="verdict" class:stop={s.way === 'workshop' || s.way === 'treat_water'}>
      <svelte:element this={s.card || s.refused ? 'h2' : 'h1'} class="head-voice text-[clamp(28px,3.4vw,44px)]">{s.verdict.title}</svelte:element>
      {#each s.verdict.because as r}<p>{r.text}</p>{/each}
      {#each s.verdict.next ?? [] as n}<p><b>{n}</b></p>{/each}
    </section>

    {#if s.asks.length > 0}
      <section class="mt-5 max-w-4xl">
        <h2 class="head-voice mb-1 text-[26px]">{s.programs.length > 0 ? 'Say this, and more of it may be led' : 'Say this first'}</h2>
        <Facts machine={s.machine_id} version={s.version} facts={s.asks} onchanged={() => load()} />
      </section>
    {/if}
    {#if s.by_entitled}
      <section class="mt-5 max-w-4xl">
        <h2 class="head-voice text-[26px]">A technician's own way</h2>
        {#if entitled}
          <p><b>{entitled}</b> records to be entitled to descale this machine. It stays in the log. <button type="button" class="min-h-11 cursor-pointer underline underline-offset-4" onclick={() => (entitled = '')}>Not so</button></p>
        {:else}
          <p>A trade machine is a pressure vessel. It is led only for who is entitled to it by the maker or the local code, and only where the model of it clears the plan.</p>
          <form class="mt-2 flex flex-wrap gap-3" onsubmit={(e) => { e.preventDefault(); entitled = typed.trim() }}>
            <input class="border-ink bg-slip h-[50px] w-64 border-[1.5px] px-3" maxlength="40" bind:value={typed} aria-label="Name of who is entitled" placeholder="your name" />
            <button class="btn btn-outline btn-primary" disabled={!typed.trim()}>I am entitled to it</button>
          </form>
        {/if}
      </section>
    {/if}
    {#if s.instead.length > 0}
      <Instead machine={s.machine_id} offers={s.instead} />
      <p class="border-ink mt-5 border-t-2 pt-3 text-[19px]"><b>Not for you to do.</b> No dose and no steps are shown.</p>
    {/if}
    {#if s.refused}
      <section class="caution mt-5"><h1 class="head-voice text-stop text-[34px]">{s.refused.title}</h1>
        {#each s.refused.because as r}<p>{r.text}</p>{/each}
        {#each s.refused.next ?? [] as n}<p><b>{n}</b></p>{/each}</section>
    {/if}
    {#if s.card || s.plan || s.refused || s.unready}
    <div class="card mt-5">
      <section>
        {#if s.plan && !s.plan.solution}
          <h1 class="huge-voice text-[clamp(48px,7vw,96px)]">Rinse the acid out</h1>
          <p class="mt-4 text-[19px]">Acid was left in. No fresh acid goes in: it is only rinsed, until the strip matches the water that goes in.</p>
        {:else if s.card}
          {@const c = s.card}
          <div class="flex items-center gap-8">
            <h1 class="huge-voice amount"><Num worked={c.measure} text={measured(c.measure)} /></h1>
            {#if c.product.form === 'powder' && c.spoons}<span class="head-voice text-[44px]">{round(c.spoons.value)} ×</span><SpoonPicture spoon={{ whole: 1, num: 0, den: 1 }} height={130} />{/if}
          </div>
          <p class="head-voice text-[30px]">in <Num worked={c.mixed} text={poured(c.mixed.value)} /> of water, in all{#if c.mixed.value > c.solution.value * 1.01}; <Num worked={c.solution} text={poured(c.solution.value)} /> of it goes in{/if}</p>
          <p class="mt-2 text-[19px]"><b><Num worked={c.a_litre} text={measured(c.a_litre)} /></b> a litre{#if c.spoons}; in all about <b><Num worked={c.spoons} text="{round(c.spoons.value)} level teaspoons" /></b>, a scale is better{/if}{#if c.ounces}; an ounce to <Num worked={c.ounces} text="{short(c.ounces.value)} fl oz" />{/if}.</p>
          <p class="mt-1">{short(c.strength_g_l)} g/L of acid, pH <Num worked={c.fresh_ph} text={c.fresh_ph.value.toFixed(1)} /> as mixed. {c.product.note ?? ''}</p>
        {/if}
        <div class="mt-4 flex flex-wrap gap-4">
          <label class="field">Product
            <select value={product} onchange={(e) => { strength = undefined; product = e.currentTarget.value }}>
              {#each [...(products?.generic ?? []), ...(products?.own ?? [])] as q (q.id)}<option value={q.id}>{q.name}</option>{/each}
            </select></label>
          <label class="field">acid, g/L<input type="number" step="any" min="1" value={strength ?? s.card?.strength_g_l} onchange={(e) => (strength = Number(e.currentTarget.value) || undefined)} /></label>
          <button type="button" class="btn btn-outline btn-primary self-end" aria-expanded={adding} onclick={() => (adding = !adding)}>{adding ? 'No other' : 'Another product'}</button>
        </div>
        {#if adding}
          <form class="mt-3 flex flex-wrap items-end gap-4" onsubmit={(e) => { e.preventDefault(); void keep() }}>
            <label class="field">What it is called<input bind:value={own.name} maxlength="80" /></label>
            <label class="field">It is<select bind:value={own.form}><option value="powder">a powder</option><option value="sachets">sachets</option><option value="liquid">a liquid</option></select></label>
            <label class="field">of<select bind:value={own.acid}><option value="citric">citric acid</option><option value="lactic">lactic acid</option><option value="sulfamic">sulfamic acid</option><option value="acetic">acetic acid</option></select></label>
            <label class="field">acid, g in {own.form === 'powder' ? 'a gram' : own.form === 'sachets' ? 'a sachet' : 'a millilitre'}<input type="number" step="any" bind:value={own.grams} /></label>
            <label class="field">{units[own.form]} a litre, by its label<input type="number" step="any" bind:value={own.litre} /></label>
            <button class="btn btn-primary" disabled={own.name.trim() === ''}>Save it</button>
          </form>
        {/if}
        {#if s.plan}
          <h2 class="head-voice mt-6 mb-1 text-[24px]">Have ready</h2>
          <ul class="list-disc pl-6 text-[18px]">{#each s.plan.lay_out as l}<li>{l}</li>{/each}</ul>
        {/if}
      </section>
      <section>
        {#if s.programs.length > 0}<div class="mb-5"><DescaleStart card={s} {product} {strength} {program} {renew} {wash} {entitled} /></div>{/if}
        {#if s.card && !s.plan}
          <h2 class="head-voice mb-3 text-[24px]">What is filled</h2>
          <VesselPictures needs={s.card.needs} />
        {/if}
        <div class="cool">
          <div class="label-voice">If switched off now, cool enough to open at</div>
          <p class="huge-voice text-[56px]"><Num worked={s.opens} text={clock(s.opens_at, s.zone)} /></p>
          <p class="mt-3">{weekday(s.opens_at, s.zone)}, below {round(s.opens_below_c)} °C, in a room of {round(s.air_c)} °C. A thermometer says so, never a hand; without one, the next morning. A gauge stands at 0.</p>
        </div>
      </section>
    </div>

    {/if}
    {#if s.programs.length > 0 && s.card}<DescalePlan card={s} bind:program bind:renew bind:wash />{/if}

    {#if s.card}
      {@const c = s.card}
      {#if s.plan}
        {@const plan = s.plan}
        <section class="mt-6">
          <h2 class="head-voice mb-1 text-[24px]">Circuit by circuit</h2>
          <div class="scroll" role="group" aria-label="Circuit by circuit" tabindex="-1">
            <table>
              <thead><tr class="label-voice"><th>circuit</th><th class="n">it holds</th><th class="n">scale, likely</th><th class="n">rinse, at least</th><th>proven at</th></tr></thead>
              <tbody>
                {#each plan.circuits as n (n.id)}
                  <tr>
                    <th scope="row"><b class="num-voice text-[19px]">{n.title}</b><div class="label-voice">{n.drained ? 'drained and refilled' : 'pushed through'}</div></th>
                    <td class="n" data-l="it holds">{amount(n.holds_l, 'L')}</td>
                    <td class="n" data-l="scale, likely">{amount(n.scale_g, 'g')}</td>
                    <td class="n big" data-l="rinse, at least"><Num worked={n.least} text={n.least.unit === 'refills' ? `${round(n.least.value)} refills` : amount(n.least.value, 'L')} /></td>
                    <td data-l="proven at">{n.outlets.join(', ')}</td>
                  </tr>
                {/each}
              </tbody>
            </table>
          </div>
          <p class="mt-2 max-w-4xl text-[16px]">Acid stands for about {round(plan.contact_min)} of the {round(plan.contact_most_min)} minutes that it may, warm minutes counted more.{#if plan.left_g > 0.1 && plan.solution} About {amount(plan.left_g, 'g')} of the likely scale stays for another day.{/if} Each circuit is clean when two strips in a row read what the clean water reads, within one step; a meter within 0.3.</p>
          {#if plan.cleared}<p class="text-ink-2 mt-1 max-w-4xl text-[15px]">{plan.cleared.text}</p>{/if}
          {#each c.because as r}<p class="text-ink-2 mt-1 max-w-4xl text-[15px]">{r.text}</p>{/each}
        </section>
      {/if}
      <div class="two">
        <section>
          <h2 class="head-voice mb-2 text-[24px]">Before you touch it</h2>
          <div class="grid gap-2"><Cautions list={c.cautions} /></div>
        </section>
        <section>
          <h2 class="head-voice mb-2 text-[24px]">What it touches</h2>
          {#each c.findings as f (f.title)}<p class="mb-2"><b>{f.title}.</b> {f.because.map((r) => r.text).join(' ')} {f.next?.join(' ') ?? ''}</p>{/each}
          <p class="text-ink-2 text-[15px]">What the boiler is made of is said on <a class="underline underline-offset-4" href={p('/machines/:id', { params: { id: s.machine_id } })}>the machine's page</a>.</p>
        </section>
      </div>
      <section class="after">
        <h2 class="head-voice mb-2 text-[24px]">Afterwards: what was really there</h2>
        <SpentForm card={s} onchanged={load} />
      </section>
    {/if}
  </div>
{/if}

<style>
  .verdict {
    margin-top: 10px;
    padding: 12px 18px;
    border: 2px solid var(--color-ink);
    background: var(--color-slip);
  }
  .verdict.stop {
    border-left: 12px solid var(--color-stop);
  }
  .card {
    display: grid;
    grid-template-columns: minmax(0, 1.25fr) minmax(0, 1fr);
    gap: 24px 48px;
  }
  .amount {
    font-size: clamp(84px, 11vw, 150px);
    padding: 14px 0 18px;
  }
  .cool {
    margin-top: 22px;
    padding-top: 12px;
    border-top: 2px solid var(--color-ink);
  }
  .two {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 20px 48px;
    margin-top: 24px;
  }
  .after {
    margin-top: 26px;
    padding-top: 12px;
    border-top: 2px solid var(--color-ink);
  }
  .field {
    display: grid;
    gap: 4px;
    font-weight: 600;
    font-size: 16px;
  }
  .field input,
  .field select {
    height: 48px;
    min-width: 130px;
    padding: 0 12px;
    border: 1.5px solid var(--color-ink);
    background: var(--color-slip);
    font-weight: 600;
  }
  .field input[type='number'] {
    width: 130px;
  }
  .scroll {
    overflow-x: auto;
  }
  table {
    width: 100%;
    border-top: 2px solid var(--color-ink);
  }
  th,
  td {
    padding: 8px 14px 8px 0;
    text-align: left;
    vertical-align: baseline;
    font-weight: 400;
  }
  tbody tr {
    border-bottom: 1px solid var(--color-rule);
  }
  .n {
    text-align: right;
    font-stretch: 72%;
    font-weight: 700;
    font-size: 18px;
    white-space: nowrap;
  }
  thead .n {
    font-size: 14px;
    font-weight: 600;
  }
  .big {
    font-size: 26px;
  }
  @media (max-width: 1000px) {
    .card,
    .two {
      grid-template-columns: minmax(0, 1fr);
    }
    thead {
      display: none;
    }
    table,
    tbody {
      display: block;
    }
    tbody tr {
      display: grid;
      grid-template-columns: repeat(3, 1fr);
      gap: 6px 12px;
      padding: 8px 0;
    }
    tbody tr > th {
      grid-column: 1 / -1;
    }
    th,
    td {
      padding: 0;
    }
    .n {
      text-align: left;
    }
    td[data-l]::before {
      content: attr(data-l);
      display: block;
      font-size: 13px;
      font-weight: 600;
      color: var(--color-ink-2);
    }
  }
  @media print {
    .after,
    .field {
      display: none;
    }
  }
</style>
