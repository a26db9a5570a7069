<!-- Water: when it wants a descale, the one thing to do about it, and what else is known, folded. -->
<script lang="ts">
  import { untrack } from 'svelte'
  import { ask, client, newId, problemOf, type Problem, type Schemas } from '../../data/api'
  import { askBench } from '../../data/state.svelte'
  import { navigate, p, route } from '../../router'
  import Fold from '../../ui/Fold.svelte'
  import { amount, day, during, figure, otherYear, range, short, span, stamp } from '../../ui/format'
  import Num from '../../ui/Num.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import Ruler from '../../ui/Ruler.svelte'
  import Boilers from '../shared/Boilers.svelte'
  import DoneBefore from '../shared/DoneBefore.svelte'
  import Advice from './Advice.svelte'
  import Goes from './Goes.svelte'
  import Numbers from './Numbers.svelte'
  import Rules from './Rules.svelte'
  import ScaleCurve from './ScaleCurve.svelte'
  import Treatments from './Treatments.svelte'
  import { Tried } from './water.svelte'
  import WaterForm from './WaterForm.svelte'
  import WhatIf from './WhatIf.svelte'
  import Who from './Who.svelte'
  import WorthHere from './WorthHere.svelte'

  type Work = Schemas['WaterAtWork']
  let water = $state<Work>()
  let other = $state<Work>() // what if
  let waters = $state<Schemas['Waters']>()
  let machines = $state<Schemas['BenchMachine'][]>([])
  let problem = $state<Problem>()
  let entering = $state(false)
  const tried = new Tried()
  const id = $derived((route.params as { id?: string }).id ?? machines[0]?.id ?? '')
  const shown = $derived(other ?? water)

  async function attempt(call: () => Promise<void>) {
    try {
      await call()
      problem = undefined
    } catch (error) {
      problem = problemOf(error)
    }
  }
  const load = (of: string) =>
    attempt(async () => {
      const [came, all] = await Promise.all([
        ask(client.GET('/machines/{machine_id}/water', { params: { path: { machine_id: of } } })),
        ask(client.GET('/waters')),
      ])
      if (of !== id) return // a late answer to another machine
      ;[water, waters] = [came, all]
      document.title = `Water, ${came.machine_name} · Fresh Anvil`
    })
  $effect(() => void attempt(async () => void (machines = (await askBench()).machines)))
  $effect(() => {
    if (id) void load(id)
    tried.reset()
  })
  // what if: asked of the server as the hand moves, the newest answer stands
  let turn = 0
  $effect(() => {
    if (!tried.any || !water) {
      turn++ // an answer that is still under way comes too late
      other = undefined
      return
    }
    const body = tried.body(water.table)
    const mine = ++turn
    const path = { params: { path: { machine_id: water.machine_id } } }
    const rows = water.table
    // the date at once, the table when the hand rests
    const put = (table: boolean) =>
      attempt(async () => {
        const answer = await ask(client.POST('/machines/{machine_id}/water/if', { ...path, body: { ...body, table } }))
        if (mine === turn)
          other = answer.table.length > 0 ? answer : { ...answer, table: untrack(() => other?.table) ?? rows }
      })
    void put(false)
    const rest = setTimeout(() => void put(true), 300)
    return () => clearTimeout(rest)
  })
  const draw = (source: string | undefined, treatment: Schemas['TreatmentSetting']) =>
    ask(
      client.POST('/machines/{machine_id}/water', {
        params: { path: { machine_id: id } },
        body: { id: newId(), treatment, ...(source && { source_id: source }) },
      }),
    )
  const kept = (source: string) =>
    attempt(async () => {
      tried.sample = undefined
      entering = false
      // a reading more of the source it draws from already changes nothing about that
      if (water && water.source?.id !== source) await draw(source, water.treatment)
      await load(id)
    })
  const again = (call: () => Promise<unknown>) => attempt(async () => void (await call(), await load(id)))
  const said = (w: Work) =>
    w.due.state === 'unrecorded'
      ? 'Nothing on record: if it was done, say when.'
      : w.due.last
        ? `Last done ${stamp(w.due.last, w.zone)}.`
        : ''
</script>

{#if problem}<div class="px-8"><ProblemNote {problem} /></div>{/if}
{#if shown && water}
  {@const w = shown}
  {@const lead = w.places.find((q) => q.leads)}
  <div class="px-5 pt-4 pb-16 md:px-8">
    <div class="flex flex-wrap items-baseline justify-between gap-x-8 gap-y-2">
      <label class="label-voice flex items-center gap-2"
        >Water of
        <select
          class="which"
          value={id}
          onchange={(e) => navigate('/machines/:id/water', { params: { id: e.currentTarget.value } })}
        >
          {#each machines as m (m.id)}<option value={m.id}>{m.name}</option>{/each}
        </select>
      </label>
      <button
        type="button"
        class="btn btn-outline btn-primary"
        aria-expanded={entering}
        onclick={() => {
          entering = !entering
          tried.sample = undefined
        }}>{entering ? 'Cancel' : 'Enter a reading'}</button
      >
    </div>
    {#if entering}
      <section class="enter" aria-label="Enter a reading">
        <WaterForm
          sources={waters?.sources ?? []}
          strip={waters?.strip ?? []}
          onsample={(x) => (tried.sample = x)}
          onkept={kept}
        />
      </section>
    {/if}

    <div class="work" class:tried={other !== undefined}>
      <section class="answer">
        <div class="label-voice">{other ? 'What if' : `${w.suits.finding.title}, ${w.machine_name}`}</div>
        <h1 class="huge-voice date" class:text-act={w.due.now && !other}>
          {#if other}{w.inspect ? 'Only look' : w.every.value >= 360 ? '' : 'Every '}{#if !w.inspect}<Num
                worked={w.every}
                text={span(w.every.value)}
              />{/if}
          {:else if w.due.state === 'unrecorded'}Due now
          {:else if w.due.state === 'overdue'}{w.due.title}: overdue
          {:else}{#if w.due.days}<Num worked={w.due.days} text={day(w.due.likely, w.zone)} />{:else}{day(
                w.due.likely,
                w.zone,
              )}{/if}{#if otherYear(w.due.likely, w.zone)}<span class="head-voice ml-3 text-[30px]"
                >{otherYear(w.due.likely, w.zone)}</span
              >{/if}{/if}
        </h1>
        {#if !other}
          <p class="text-[19px]">
            <b>{w.due.title}</b>{#if w.due.state === 'later' && range(w.due, w.zone)}
              ({range(w.due, w.zone)}){/if}. {said(w)}
          </p>
          <div class="mt-2 grid max-w-xl gap-1">
            {#each w.due.clocks as c (c.kind)}<Ruler clock={c} due={w.due} zone={w.zone} />{/each}
          </div>
        {/if}
        {#if w.treat_first}
          {@const first = w.treat_first}
          <div class="caution mt-3" role="note">
            <b class="head-voice text-[22px]">{first.title}.</b>
            {first.because.map((r) => r.text).join(' ')} <b>{(first.next ?? []).join(' ')}</b>
          </div>
        {/if}
        <p class="mt-2">{w.decided.text}</p>
        {#if !other}
          <div class="mt-2 flex flex-wrap items-center gap-x-5">
            <a class="btn btn-outline btn-primary" href={p('/machines/:id/descale', { params: { id: w.machine_id } })}
              >The descale card</a
            >
            <details>
              <summary class="min-h-11 cursor-pointer py-2 underline underline-offset-4">Already done</summary
              ><DoneBefore machine={w.machine_id} due={w.due} onrecorded={() => load(id)} />
            </details>
          </div>
        {/if}
      </section>
      <section class="grid content-start gap-4">
        <div>
          <ScaleCurve places={w.places} />
          <ul class="mt-1 text-[16px]">
            {#each w.places as q (q.id)}
              <li>
                <b>{q.title}</b>: <Num worked={q.rate} text="{figure(q.rate.value)} mg a day" />, <Num
                  worked={q.grown}
                  text="{q.grown.value.toFixed(2)} mm"
                /> now{#if q.hotter && q.hotter.value >= 0.5}, which runs it <Num
                    worked={q.hotter}
                    text="{short(q.hotter.value)} K"
                  /> hotter{/if}.{q.leads && w.places.length > 1 ? ' It decides.' : ''}
              </li>
            {/each}
          </ul>
        </div>
        {#if w.advice && !other}{@const advice = w.advice}<Advice
            {advice}
            onchoose={() =>
              again(() => draw(w.source?.id, w.table.find((r) => r.setting.kind === advice.kind)!.setting))}
          />{/if}
      </section>
    </div>

    <Fold title="What if" note="other water, other use, another treatment"
      ><WhatIf {w} most={Math.max(30, Math.ceil(water.drinks * 3))} {tried} asking={tried.any} /></Fold
    >
    {#if !other && (w.worth?.length ?? 0) > 0}<Fold title="Worth finding out" note={w.worth?.[0]?.label ?? ''}
        ><WorthHere
          {w}
          onenter={() => {
            entering = true
            tried.sample = undefined
            scrollTo({ top: 0 })
          }}
        /></Fold
      >{/if}
    <Fold title="The water in numbers" note={w.known ? `read, ${w.treatment_title}` : 'nobody has read it yet'}>
      <Numbers
        {w}
        {waters}
        onsource={kept}
        ondate={(reading, on) =>
          again(() =>
            ask(
              client.PATCH('/readings/{reading_id}', {
                params: { path: { reading_id: reading } },
                body: { at: during(on) },
              }),
            ),
          )}
        onforget={(reading) =>
          again(() => ask(client.DELETE('/readings/{reading_id}', { params: { path: { reading_id: reading } } })))}
      />
    </Fold>
    <Fold title="The rules side by side" note="scale, calendar, a year"><Rules {w} /></Fold>
    <Fold
      title="Where it goes"
      note={`${amount(w.litres.at(-1)?.value ?? 0, 'L')} a day${w.renew && !other ? `; ${w.renew.title.toLowerCase()} ${w.renew.state === 'later' ? day(w.renew.likely, w.zone) : 'now'}` : ''}`}
      ><Goes {w} onrecorded={() => load(id)} /></Fold
    >
    <Fold title="Who descales it" note={w.suits.finding.title}
      ><Who
        {w}
        onstance={(value) =>
          again(() =>
            ask(
              client.POST('/machines/{machine_id}/facts', {
                params: { path: { machine_id: id } },
                body: { version: water!.version, facts: [{ key: 'stance', value }] },
              }),
            ),
          )}
      /></Fold
    >
    <Boilers machine={w.machine_id} zone={w.zone} onkept={() => load(id)} />
    <Fold title="Ways to treat the water" note="{w.table.length} side by side">
      <p class="text-ink-2 mb-2 text-[15px]">
        For this water, this machine and {figure(w.drinks)} drinks a day. None stops scale completely. Prices are placeholders
        until you type in yours; a litre of tap water and salt are counted.
      </p>
      <Treatments
        water={w}
        onchosen={(chosen) => {
          tried.reset()
          water = chosen
          void load(id)
        }}
        onsaid={() => load(id)}
      />
    </Fold>
    {#if lead}<p class="sr-only">The {lead.title} reaches its limit first.</p>{/if}
  </div>
{:else if !problem && machines.length === 0}
  <p class="px-8 pt-8 text-[20px]">
    No machine yet. <a class="underline" href={p('/machines/new')}>Answer the five questions</a> first.
  </p>
{/if}

<style>
  .which {
    height: 46px;
    max-width: 60vw;
    padding: 0 12px;
    border: 1.5px solid var(--color-ink);
    background: var(--color-slip);
    color: var(--color-ink);
    font-weight: 700;
    font-size: 18px;
  }
  .enter {
    margin-top: 14px;
    padding: 16px 20px;
    border: 2px solid var(--color-ink);
    background: var(--color-slip);
  }
  .work {
    display: grid;
    grid-template-columns: minmax(0, 460px) minmax(0, 1fr);
    gap: 16px 40px;
    margin-top: 12px;
    padding-bottom: 16px;
  }
  .tried .answer {
    background: var(--color-act-soft);
    margin: -8px -14px;
    padding: 8px 14px;
  }
  .date {
    margin: 8px 0 12px;
    font-size: clamp(52px, 6.4vw, 92px);
  }
  @media (max-width: 1000px) {
    .work {
      grid-template-columns: minmax(0, 1fr);
    }
  }
  @media print {
    .enter {
      display: none;
    }
  }
</style>
