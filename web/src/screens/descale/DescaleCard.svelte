<!-- The descale card: what decides is asked first; then whether, how much of what, how long, and what to lay out.
     Everything else is folded. -->
<script lang="ts">
  import { ask, client, type Schemas } from '../../data/api'
  import { Resource } from '../../data/resource.svelte'
  import { p, route } from '../../router'
  import Cautions from '../../ui/Cautions.svelte'
  import Fold from '../../ui/Fold.svelte'
  import { clock, measured, round, short, weekday } from '../../ui/format'
  import Num from '../../ui/Num.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import Amount from './Amount.svelte'
  import Chapters from './Chapters.svelte'
  import Circuits from './Circuits.svelte'
  import DescalePlan from './DescalePlan.svelte'
  import DescaleStart from './DescaleStart.svelte'
  import Entitled from './Entitled.svelte'
  import Instead from './Instead.svelte'
  import Product from './Product.svelte'
  import Questions from './Questions.svelte'
  import SpentForm from './SpentForm.svelte'
  import VesselPictures from './VesselPictures.svelte'

  const page = new Resource<Schemas['MachineDescale']>()
  const shown = $derived(page.value)
  let products = $state<Schemas['Products']>()
  let product = $state('citric')
  let strength = $state<number>()
  let program = $state<string>()
  let renew = $state(false)
  let wash = $state(false)
  let entitled = $state('') // who records by name to be entitled to descale a trade machine
  const id = $derived((route.params as { id?: string }).id ?? '')

  async function load() {
    const query = {
      product,
      renew,
      wash,
      ...(entitled && { entitled }),
      ...(program && { program }),
      ...(strength && { strength_g_l: strength }),
    }
    const came = await page.ask(async (signal) => {
      products ??= await ask(client.GET('/products'))
      return ask(
        client.GET('/machines/{machine_id}/descale', { params: { path: { machine_id: id }, query }, signal }),
      )
    })
    if (came) document.title = `Descale card, ${came.machine_name} · Fresh Anvil`
  }
  $effect(() => {
    void [id, product, strength, program, renew, wash, entitled]
    void load()
  })
  const words: Record<Schemas['MachineDescale']['way'], string> = {
    at_home: 'Go',
    with_care: 'Careful',
    workshop: 'Workshop',
    treat_water: 'Leave it',
  }
</script>

{#if page.problem}<div class="px-8"><ProblemNote problem={page.problem} /></div>{/if}
{#if shown}
  {@const s = shown}
  <div class="px-5 pt-5 pb-16 md:px-8">
    <div class="label-voice">
      <a class="underline underline-offset-4" href={p('/machines/:id', { params: { id: s.machine_id } })}
        >{s.machine_name}</a
      >, descale card
    </div>
    <section class="verdict" class:stop={s.way === 'workshop' || s.way === 'treat_water'}>
      <h1>
        <span class="huge-voice word">{words[s.way]}</span>
        <span class="head-voice text-[clamp(24px,2.8vw,36px)]">{s.verdict.title}</span>
      </h1>
      {#each s.verdict.because.slice(0, s.way === 'at_home' || s.way === 'with_care' ? 1 : 9) as r}<p>
          {r.text}
        </p>{/each}
      {#each s.verdict.next ?? [] as n}<p><b>{n}</b></p>{/each}
      {#if s.verdict.because.length > 1 && (s.way === 'at_home' || s.way === 'with_care')}<details>
          <summary class="linked content-center">More reasons ({s.verdict.because.length - 1})</summary
          >{#each s.verdict.because.slice(1) as r}<p>{r.text}</p>{/each}
        </details>{/if}
    </section>

    <Questions card={s} onchanged={() => load()} />
    {#if s.by_entitled}<Entitled bind:entitled />{/if}
    {#if s.instead.length > 0}
      <Instead machine={s.machine_id} offers={s.instead} />
      <p class="border-ink mt-5 border-t-2 pt-3 text-[19px]">
        <b>Not for you to do.</b> No dose and no steps are shown.
      </p>
    {/if}
    {#if s.refused}
      <section class="caution mt-5">
        <h2 class="head-voice text-stop text-[34px]">{s.refused.title}</h2>
        {#each s.refused.because as r}<p>{r.text}</p>{/each}
        {#each s.refused.next ?? [] as n}<p><b>{n}</b></p>{/each}
      </section>
    {/if}

    {#if s.card || s.plan || s.unready}
      <div class="card">
        <section>
          {#if s.plan && !s.plan.solution}
            <h2 class="huge-voice text-[clamp(48px,7vw,96px)]">Rinse the acid out</h2>
            <p class="mt-4 text-[19px]">
              Acid was left in. No fresh acid goes in: it is only rinsed, until the strip matches the water that
              goes in.
            </p>
          {:else if s.card}
            <Amount c={s.card} />
          {/if}
          {#if s.plan}
            <div class="mt-2">
              <Fold title="Buy and lay out" note="{s.plan.lay_out.length} things">
                <ul class="list-disc pl-6">
                  {#each s.plan.lay_out as l}<li>{l}</li>{/each}
                </ul>
              </Fold>
            </div>
          {/if}
        </section>
        <section>
          {#if s.programs.length > 0}<DescaleStart
              card={s}
              {product}
              {strength}
              {program}
              {renew}
              {wash}
              {entitled}
            />{/if}
          {#if s.card && !s.plan}
            <h3 class="head-voice mb-3 text-[22px]">What is filled</h3>
            <VesselPictures needs={s.card.needs} />
          {/if}
        </section>
      </div>
    {/if}

    {#if s.card}
      {@const c = s.card}
      <section class="mt-5">
        <h2 class="head-voice mb-2 text-[22px]">Before you touch it</h2>
        <div class="grid gap-1"><Cautions list={c.cautions} /></div>
      </section>
      <div class="mt-5 border-b border-[var(--color-rule)]">
        {#if s.plan}<Chapters plan={s.plan} />{/if}
        {#if s.programs.length > 0}<Fold
            title="Another way, or more with it"
            note="{s.programs.length} {s.programs.length === 1 ? 'way' : 'ways'}"
            ><DescalePlan card={s} bind:program bind:renew bind:wash /></Fold
          >{/if}
        {#if products}<Fold title="Another descaler" note={c.product.name}
            ><Product
              {products}
              {product}
              {strength}
              usual={c.strength_g_l}
              onpick={(q, g, all) => {
                products = all ?? products
                product = q
                strength = g
              }}
            />
            <p class="mt-3">
              <b><Num worked={c.a_litre} text={measured(c.a_litre)} /></b> a litre{#if c.spoons}; in all about <b
                  ><Num worked={c.spoons} text="{round(c.spoons.value)} level teaspoons" /></b
                >, a scale is better{/if}.
            </p>
            <p class="mt-1">
              {short(c.strength_g_l)} g/L of acid, pH <Num worked={c.fresh_ph} text={c.fresh_ph.value.toFixed(1)} /> as
              mixed{#if c.ounces}; an ounce to <Num worked={c.ounces} text="{short(c.ounces.value)} fl oz" />{/if}. {c
                .product.note ?? ''}
            </p></Fold
          >{/if}
        {#if s.plan}<Fold title="Circuit by circuit" note="what it holds, its rinse, where it is proven"
            ><Circuits card={c} plan={s.plan} /></Fold
          >{/if}
        <Fold
          title="What it touches"
          note={c.findings
            .map((f) => f.title)
            .slice(0, 1)
            .join('')}
        >
          {#each c.findings as f (f.title)}<p class="mb-2">
              <b>{f.title}.</b>
              {f.because.map((r) => r.text).join(' ')}
              {f.next?.join(' ') ?? ''}
            </p>{/each}
          <p class="text-ink-2 text-[15px]">
            What the boiler is made of is said on <a
              class="underline underline-offset-4"
              href={p('/machines/:id', { params: { id: s.machine_id } })}>the machine's page</a
            >.
          </p>
        </Fold>
        <Fold title="When it is cool enough to open" note="switched off now: {clock(s.opens_at, s.zone)}">
          <p class="huge-voice text-[56px]"><Num worked={s.opens} text={clock(s.opens_at, s.zone)} /></p>
          <p class="mt-2">
            {`${weekday(s.opens_at, s.zone)}, below ${round(s.opens_below_c)} °C, in a room of ${round(s.air_c)} °C.`}
            A thermometer says so, never a hand; without one, the next morning. A gauge stands at 0.
          </p>
        </Fold>
        <Fold title="Afterwards: what was really there"><SpentForm card={s} onchanged={() => load()} /></Fold>
      </div>
    {/if}
  </div>
{/if}

<style>
  .verdict {
    margin-top: 8px;
    padding: 10px 18px 4px;
    border: 2px solid var(--color-ink);
    background: var(--color-slip);
  }
  .verdict.stop {
    border-left: 12px solid var(--color-stop);
  }
  .word {
    margin-right: 10px;
    font-size: clamp(44px, 5vw, 68px);
  }
  .card {
    display: grid;
    grid-template-columns: minmax(0, 1.1fr) minmax(0, 1fr);
    gap: 20px 48px;
    margin-top: 18px;
  }
  @media (max-width: 1000px) {
    .card {
      grid-template-columns: minmax(0, 1fr);
    }
  }
</style>
