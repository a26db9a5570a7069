<!-- Water: what was read, what it does inside this machine, and what would change it. -->
<script lang="ts">
  import { untrack } from 'svelte'
  import { ask, client, newId, problemOf, type Problem, type Schemas } from '../../data/api'
  import { amount, day, during, figure, otherYear, range, round, short, span, stamp, theMachine, told } from '../../ui/format'
  import Boilers from '../shared/Boilers.svelte'
  import DoneBefore from '../shared/DoneBefore.svelte'
  import Hardness from '../../ui/Hardness.svelte'
  import Num from '../../ui/Num.svelte'
  import { askBench } from '../../data/state.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { navigate, p, route } from '../../router'
  import Ruler from '../../ui/Ruler.svelte'
  import ScaleCurve from './ScaleCurve.svelte'
  import StartWash from '../shared/StartWash.svelte'
  import Treatments from './Treatments.svelte'
  import WaterForm from './WaterForm.svelte'

  type Work = Schemas['WaterAtWork']
  let water = $state<Work>()
  let tried = $state<Work>() // what if
  let waters = $state<Schemas['Waters']>()
  let machines = $state<Schemas['BenchMachine'][]>([])
  let problem = $state<Problem>()
  let entering = $state(false)
  let sample = $state<Schemas['WaterSample']>()
  let hardness = $state<number>()
  let drinks = $state<number>()
  let hours = $state<number>()
  let kind = $state<Schemas['TreatmentSetting']['kind']>()
  const id = $derived((route.params as { id?: string }).id ?? machines[0]?.id ?? '')
  const shown = $derived(tried ?? water)
  const asking = $derived(sample !== undefined || hardness !== undefined || drinks !== undefined || hours !== undefined || kind !== undefined)

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
      water = await ask(client.GET('/machines/{machine_id}/water', { params: { path: { machine_id: of } } }))
      waters = await ask(client.GET('/waters'))
      document.title = `Water, ${water.machine_name} · Fresh Anvil`
    })
  $effect(() => void attempt(async () => void (machines = (await askBench()).machines)))
  $effect(() => {
    if (id) void load(id)
    reset()
  })
  function reset() {
    hardness = drinks = hours = kind = sample = tried = undefined
  }
  // what if: asked of the server as the hand moves, the newest answer stands
  let turn = 0
  $effect(() => {
    if (!asking || !water) {
      turn++ // an answer that is still under way comes too late
      tried = undefined
      return
    }
    const body: Schemas['WaterIf'] = {
      ...(sample ? { sample } : hardness !== undefined && { sample: { hardness: { value: hardness, unit: 'mg_l_caco3' as const } } }),
      ...(drinks !== undefined && { drinks }),
      ...(hours !== undefined && { hours_on: hours }),
      ...(kind && { treatment: water.table.find((r) => r.setting.kind === kind)!.setting }),
    }
    const mine = ++turn
    const path = { params: { path: { machine_id: water.machine_id } } }
    const rows = water.table
    // the date at once, the table when the hand rests
    const put = (table: boolean) =>
      attempt(async () => {
        const answer = await ask(client.POST('/machines/{machine_id}/water/if', { ...path, body: { ...body, table } }))
        if (mine === turn) tried = answer.table.length > 0 ? answer : { ...answer, table: untrack(() => tried?.table) ?? rows }
      })
    void put(false)
    const rest = setTimeout(() => void put(true), 300)
    return () => clearTimeout(rest)
  })
  const kept = (source: string) =>
    attempt(async () => {
      sample = undefined
      entering = false
      if (!water) return
      // a reading more of the source it draws from already changes nothing about that
      if (water.source?.id !== source) await ask(client.POST('/machines/{machine_id}/water', { params: { path: { machine_id: water.machine_id } }, body: { id: newId(), source_id: source, treatment: water.treatment } }))
      await load(water.machine_id)
    })
  const dateIt = (reading: string, on: string) =>
    attempt(async () => {
      await ask(client.PATCH('/readings/{reading_id}', { params: { path: { reading_id: reading } }, body: { at: during(on) } }))
      await load(id)
    })
  const forget = (reading: string) =>
    attempt(async () => {
      await ask(client.DELETE('/readings/{reading_id}', { params: { path: { reading_id: reading } } }))
      await load(id)
    })
  // the three stances; the layout's own stands until one is said
  const stances = ['by layout', 'the owner', 'nobody, low-mineral water', 'a workshop']
  const stance = $derived(water?.stance ?? 'by layout')
  const stand = (value: string) =>
    attempt(async () => {
      await ask(client.POST('/machines/{machine_id}/facts', { params: { path: { machine_id: id } }, body: { version: water!.version, facts: [{ key: 'stance', value }] } }))
      await load(id)
    })
  const away: Record<Work['suits']['way'], string> = { at_home: 'text-done', with_care: '', workshop: 'text-stop', treat_water: 'text-stop' }
  const spread = (r: Schemas['ReadingOut']) => (r.high - r.low > 0.01 * Math.max(1, r.likely) ? ` (${short(r.low)} to ${short(r.high)})` : '')
  const wide = (v: Schemas['Worked']) => (v.high - v.low > 0.01 * Math.max(1, v.value) ? ` (${told(v, v.low)} to ${told(v, v.high)})` : '')
  const readings = ['hardness_mg_l_caco3', 'alkalinity_mg_l_caco3', 'ca_mg_l', 'ph', 'cl_mg_l']
  const hows: Record<Schemas['WaterReading']['how'], string> = { strip: 'strip', drops: 'drop kit', meter: 'meter', report: 'report' }
</script>

{#if problem}<div class="px-8"><ProblemNote {problem} /></div>{/if}
{#if shown && water}
  {@const w = shown}
  {@const lead = w.places.find((q) => q.leads)}
  <div class="px-5 pt-5 pb-16 md:px-8">
    <div class="flex flex-wrap items-baseline justify-between gap-x-8 gap-y-2">
      <label class="label-voice flex items-center gap-2">Water of
        <select class="which" value={id} onchange={(e) => navigate('/machines/:id/water', { params: { id: e.currentTarget.value } })}>
          {#each machines as m (m.id)}<option value={m.id}>{m.name}</option>{/each}
        </select>
      </label>
      <button type="button" class="btn btn-outline btn-primary" aria-expanded={entering} onclick={() => { entering = !entering; sample = undefined }}>{entering ? 'Leave it as it is' : 'Enter a reading'}</button>
    </div>

    {#if entering}
      <section class="enter" aria-label="Enter a reading">
        <WaterForm sources={waters?.sources ?? []} strip={waters?.strip ?? []} onsample={(s) => (sample = s)} onkept={kept} />
      </section>
    {/if}

    <div class="work" class:tried={tried !== undefined}>
      <section class="answer">
        <div class="label-voice">{tried ? 'What if' : w.suits.finding.title}{tried ? '' : `, ${w.machine_name}`}</div>
        <h1 class="huge-voice date" class:text-act={w.due.now && !tried}>
          {#if tried}{w.inspect ? 'Only look' : w.every.value >= 360 ? '' : 'Every '}{#if !w.inspect}<Num worked={w.every} text={span(w.every.value)} />{/if}
          {:else if w.due.state === 'unrecorded'}Due now
          {:else if w.due.state === 'overdue'}{w.due.title}: overdue
          {:else}{#if w.due.days}<Num worked={w.due.days} text={day(w.due.likely, w.zone)} />{:else}{day(w.due.likely, w.zone)}{/if}{#if otherYear(w.due.likely, w.zone)}<span class="head-voice ml-3 text-[30px]">{otherYear(w.due.likely, w.zone)}</span>{/if}{/if}
        </h1>
        {#if !tried}
          <p class="text-[19px]"><b>{w.due.title}</b>{#if w.due.state === 'later' && range(w.due, w.zone)} ({range(w.due, w.zone)}){/if}. {w.due.state === 'unrecorded' ? 'Nothing on record: if it was done, say when.' : w.due.last ? `Last done ${stamp(w.due.last, w.zone)}.` : ''}</p>
          <div class="mt-2 grid max-w-xl gap-1">{#each w.due.clocks as c (c.kind)}<Ruler clock={c} due={w.due} zone={w.zone} />{/each}</div>
        {/if}
        {#if w.treat_first}
          {@const first = w.treat_first}
          <div class="caution mt-3" role="note"><b class="head-voice text-[22px]">{first.title}.</b> {first.because.map((r) => r.text).join(' ')} <b>{(first.next ?? []).join(' ')}</b> <a class="underline underline-offset-4" href="#ways">Ways to treat the water</a></div>
        {/if}
        <p class="mt-3 text-[17px]">{w.decided.text}</p>
        <table class="schools mt-2">
          <caption class="label-voice">From clean, the rules side by side</caption>
          <tbody>
            <tr class:decides={w.decided_by === 'scale'}><th scope="row">by the scale itself, at its early end</th><td><b><Num worked={w.by_scale} text={span(w.by_scale.value)} /></b>{#if w.by_scale.low < w.by_scale.high && w.by_scale.value < 3650}<div class="label-voice">to {span(w.by_scale.high)}</div>{/if}</td></tr>
            <tr class:decides={w.decided_by === 'calendar'}><th scope="row">by the trade's calendar{w.measured && w.calendar.value ? ', not counted: the water was measured' : ''}</th><td><b>{#if w.calendar.value}<Num worked={w.calendar} text={span(w.calendar.value)} />{:else}none kept{/if}</b></td></tr>
            <tr class:decides={w.decided_by === 'year'}><th scope="row">at the latest</th><td><b>{span(w.cap_days)}</b></td></tr>
          </tbody>
        </table>
        {#if !tried}<div class="mt-3"><a class="btn btn-outline btn-primary" href={p('/machines/:id/descale', { params: { id: w.machine_id } })}>The descale card</a></div>{/if}
        {#if !tried}<div class="mt-3"><DoneBefore machine={w.machine_id} due={w.due} onrecorded={() => load(id)} /></div>{/if}
      </section>

      <section class="curve">
        <h2 class="head-voice mb-1 text-[24px]">Scale from now on</h2>
        <ScaleCurve places={w.places} />
        <ul class="mt-2 text-[16px]">
          {#each w.places as q (q.id)}
            <li><b>{q.title}</b>: <Num worked={q.rate} text="{figure(q.rate.value)} mg a day" />, <Num worked={q.grown} text="{q.grown.value.toFixed(2)} mm" /> now{#if q.hotter}, which runs it <Num worked={q.hotter} text="{short(q.hotter.value)} K" /> hotter{/if}.{q.leads && w.places.length > 1 ? ' It decides.' : ''}</li>
          {/each}
        </ul>
      </section>

      {#if !tried && (w.worth?.length ?? 0) > 0}
        <section class="worth" aria-label="Worth finding out">
          <h2 class="head-voice mb-1 text-[24px]">Worth finding out</h2>
          <ol>
            {#each w.worth ?? [] as x (x.key)}
              <li><b>{x.do}</b> It {x.says}.{#if x.soonest && x.latest && x.days >= 1}<span class="label-voice ml-1">From <Num worked={x.soonest} text={span(x.soonest.value)} /> to <Num worked={x.latest} text={span(x.latest.value)} /></span>{/if}
                {#if readings.includes(x.key)}<button type="button" class="go" onclick={() => { entering = true; sample = undefined; scrollTo({ top: 0 }) }}>Enter it</button>{:else}<a class="go" href={p('/machines/:id', { params: { id: w.machine_id } })}>Say it</a>{/if}</li>
            {/each}
          </ol>
        </section>
      {/if}

      <section class="if" aria-label="What if">
        <h2 class="head-voice mb-1 text-[24px]">What if</h2>
        <label class="slide">hardness of the tap<b>{round(hardness ?? w.hardness_mg_l)} mg/L</b>
          <input type="range" min="0" max="450" step="5" value={hardness ?? w.hardness_mg_l} oninput={(e) => { sample = undefined; hardness = Number(e.currentTarget.value) }} /></label>
        <label class="slide">drinks a day<b>{round(drinks ?? w.drinks)}</b>
          <input type="range" min="0" max={Math.max(30, Math.ceil(water.drinks * 3))} step="1" value={drinks ?? w.drinks} oninput={(e) => (drinks = Number(e.currentTarget.value))} /></label>
        <label class="slide">hours a day switched on<b>{short(hours ?? w.hours_on)}</b>
          <input type="range" min="0.5" max="24" step="0.5" value={hours ?? w.hours_on} oninput={(e) => (hours = Number(e.currentTarget.value))} /></label>
        <label class="slide">what treats it
          <select value={kind ?? w.treatment.kind} onchange={(e) => (kind = e.currentTarget.value as typeof kind)}>{#each water.table as r (r.setting.kind)}<option value={r.setting.kind}>{r.title}</option>{/each}</select></label>
        <button type="button" class="btn btn-outline btn-primary mt-1 self-start" disabled={!asking} onclick={reset}>Undo</button>
        <p class="text-ink-2 text-[15px]">Nothing is kept. A date from a hardness alone takes the rest as waters usually are.</p>
      </section>
    </div>

    <div class="three">
      <section>
        <h2 class="head-voice text-[24px]">The water</h2>
        <p class="mb-2">{#if w.source}{w.source.name}{:else}By the five answers{/if}, through {w.treatment_title}.
          {#if !tried && (waters?.sources.length ?? 0) > (w.source ? 1 : 0)}
            <label class="label-voice">It draws from
              <select class="small" value={w.source?.id ?? ''} onchange={(e) => kept(e.currentTarget.value)}>
                {#if !w.source}<option value="">the five answers</option>{/if}
                {#each waters?.sources ?? [] as s (s.id)}<option value={s.id}>{s.name}</option>{/each}
              </select></label>
          {/if}{#if !w.known} <b>Nobody has read it yet.</b>{/if}</p>
        <Hardness hardness={w.raw.hardness} />
        <p class="mt-2">Alkalinity <b><Num worked={w.raw.alkalinity} text={round(w.raw.alkalinity.value)} /></b>{wide(w.raw.alkalinity)} mg/L, pH <b><Num worked={w.raw.ph} text={short(w.raw.ph.value)} /></b>{wide(w.raw.ph)}.</p>
        <p class="mt-2">At the machine: hardness <b><Num worked={w.reaches.here} text={round(w.reaches.here.value)} /></b>{wide(w.reaches.here)}, alkalinity <b><Num worked={w.reaches.alkalinity} text={round(w.reaches.alkalinity.value)} /></b>{wide(w.reaches.alkalinity)} mg/L, pH <b><Num worked={w.reaches.ph} text={short(w.reaches.ph.value)} /></b>. A litre drops <b><Num worked={w.falls} text={w.falls.value > 0 ? `${short(w.falls.value)} mg` : 'nothing'} /></b>{w.falls.high > 0 ? wide({ ...w.falls, low: Math.max(0, w.falls.low) }) : ''} when it brews{w.extrapolated ? ', extrapolated beyond 90 °C' : ''}.</p>
        <p class="mt-2" class:caution={w.corrosion.verdict === 'look'}><b>{w.corrosion.title}.</b> {w.corrosion.because.map((r) => r.text).join(' ')}{#each w.corrosion.next ?? [] as n} <b>{n}</b>{/each}</p>
        {#if w.probe}<p class="caution mt-2">{w.probe.text}</p>{/if}
        {#if w.says.length > 0}
          <details class="mt-2"><summary class="min-h-11 cursor-pointer py-2"><b>Assumptions ({w.says.length})</b></summary>
            <ul class="text-[15px]">{#each w.says as r}<li>{r.text}</li>{/each}</ul></details>
        {/if}
        {#if w.source && w.source.readings.length > 0}
          <h3 class="label-voice mt-3">What was read, newest first</h3>
          <ul class="text-[15px]">
            {#each w.source.readings as r (r.id)}
              <li class="border-rule flex justify-between gap-3 border-b py-1"><span><b>{day(r.taken, w.zone)}</b>, {hows[r.how]}: {#if r.unreadable}<b class="text-stop">It cannot be read any more. Undo it and read the water again.</b>{/if}{r.said.map((s) => `${s.label} ${short(s.value.likely)}${spread(s.value)} ${s.unit}`.trim()).join(', ')}</span>
                <span class="flex items-center gap-3">
                  <label class="text-ink-2 text-[15px]">read on <input class="min-h-11 bg-transparent" type="date" onchange={(e) => e.currentTarget.value && dateIt(r.id, e.currentTarget.value)} aria-label="the day it was read: {day(r.taken, w.zone)}" /></label>
                  <button type="button" class="text-act min-h-11 cursor-pointer whitespace-nowrap underline underline-offset-4" onclick={() => forget(r.id)}>undo</button>
                </span></li>
            {/each}
          </ul>
        {/if}
      </section>
      <section>
        <h2 class="head-voice text-[24px]">Where it goes</h2>
        <table class="litres">
          <tbody>
            {#each w.litres as l, i (l.name)}
              <tr class:sum={i === w.litres.length - 1}><th scope="row">{l.name}</th><td><Num worked={l} text={amount(l.value, 'L')} /></td></tr>
            {/each}
          </tbody>
        </table>
        <p class="text-ink-2 text-[15px]">a day{w.through_l > 0 ? `; ${amount(w.through_l, 'L')} since the last descale` : ''}.</p>
        {#if w.renew && !tried}
          {@const renew = w.renew}
          <div class="border-rule mt-4 border-t pt-2">
            <h3 class="head-voice text-[22px]" class:text-act={renew.now}>{renew.title}</h3>
            <p>{renew.state === 'later' ? `Around ${day(renew.likely, w.zone)}${range(renew, w.zone) ? ` (${range(renew, w.zone)})` : ''}.` : renew.says}</p>
            <div class="my-2 grid gap-1">{#each renew.clocks as c (c.kind)}<Ruler clock={c} due={renew} zone={w.zone} />{/each}</div>
            <div class="grid gap-2"><StartWash machine={w.machine_id} parts={[theMachine]} task={renew.task as Schemas['NewRun']['task']} text="Lead me" line={!renew.now} /><DoneBefore machine={w.machine_id} due={renew} onrecorded={() => load(id)} /></div>
          </div>
        {/if}
      </section>
      <section>
        <h2 class="head-voice text-[24px]">Who descales it</h2>
        <p class="head-voice mt-1 text-[22px] {away[w.suits.way]}">{w.suits.finding.title}</p>
        {#each w.suits.finding.because as r}<p class="mt-1">{r.text}</p>{/each}
        {#each w.suits.finding.next ?? [] as n}<p class="mt-1"><b>{n}</b></p>{/each}
        <label class="label-voice mt-2 block">Your stance
          <select class="small" value={stance} onchange={(e) => stand(e.currentTarget.value)}>
            {#each stances as s (s)}<option value={s}>{s}</option>{/each}
          </select></label>
        <p class="text-ink-2 mt-2 text-[15px]">The boiler's material, its warranty and condition: <a class="underline underline-offset-4" href={p('/machines/:id', { params: { id: w.machine_id } })}>the machine's page</a>. How it is descaled, led step by step: <a class="underline underline-offset-4" href={p('/machines/:id/descale', { params: { id: w.machine_id } })}>the descale card</a>.</p>
      </section>
    </div>

    <section class="mt-6"><Boilers machine={w.machine_id} zone={w.zone} onkept={() => load(id)} /></section>

    <section class="mt-8">
      <h2 id="ways" class="head-voice mb-1 text-[28px]">Ways to treat the water</h2>
      <p class="text-ink-2 mb-2 text-[15px]">For this water, this machine and {figure(w.drinks)} drinks a day. None stops scale completely. Prices are placeholders until you type in yours; a litre of tap water and salt are counted.</p>
      <Treatments water={w} onchosen={(chosen) => { reset(); water = chosen; void load(id) }} onsaid={() => load(id)} />
    </section>
    {#if lead}<p class="sr-only">The {lead.title} reaches its limit first.</p>{/if}
  </div>
{:else if !problem && machines.length === 0}
  <p class="px-8 pt-8 text-[20px]">No machine yet. <a class="underline" href={p('/machines/new')}>Answer the five questions</a> first.</p>
{/if}

<style>
  .small {
    min-height: 44px;
    margin-left: 6px;
    padding: 0 10px;
    border: 1.5px solid var(--color-ink);
    background: var(--color-slip);
    color: var(--color-ink);
    font-weight: 600;
  }
  .which {
    height: 46px;
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
    grid-template-columns: minmax(0, 430px) minmax(0, 1fr) 250px;
    gap: 20px 36px;
    margin-top: 14px;
    padding-bottom: 20px;
    border-bottom: 2px solid var(--color-ink);
  }
  .tried .answer {
    background: var(--color-act-soft);
    margin: -8px -14px;
    padding: 8px 14px;
  }
  .date {
    margin: 10px 0 14px;
    font-size: clamp(52px, 6.4vw, 92px);
  }
  .schools {
    width: 100%;
    border-top: 1px solid var(--color-rule);
  }
  .decides th,
  .decides td {
    font-weight: 700;
    border-bottom: 3px solid var(--color-ink);
  }
  .answer,
  .if {
    grid-row: 1 / span 2;
  }
  .if {
    grid-column: 3;
  }
  .curve {
    grid-column: 2;
  }
  .worth {
    grid-area: 2 / 2;
  }
  .worth ol {
    list-style: decimal;
    padding-left: 20px;
  }
  .worth li {
    padding: 2px 0 4px;
  }
  .go {
    display: inline-block;
    padding: 10px 0;
    margin: -8px 0 -8px 8px;
    color: var(--color-act);
    text-decoration: underline;
    text-underline-offset: 4px;
    cursor: pointer;
  }
  .schools caption {
    text-align: left;
    padding-bottom: 2px;
  }
  .schools th,
  .litres th {
    text-align: left;
    font-weight: 400;
    padding: 4px 12px 4px 0;
  }
  .schools td {
    white-space: nowrap;
  }
  .schools td,
  .litres td {
    text-align: right;
    padding: 4px 0;
  }
  .schools tr,
  .litres tr {
    border-bottom: 1px solid var(--color-rule);
  }
  .litres {
    width: 100%;
    margin-top: 6px;
  }
  .litres td {
    font-stretch: 75%;
    font-weight: 700;
  }
  .sum th {
    font-weight: 700;
  }
  .if {
    display: flex;
    flex-direction: column;
    gap: 12px;
  }
  .slide {
    display: grid;
    grid-template-columns: 1fr auto;
    gap: 2px 10px;
    font-size: 16px;
  }
  .slide input,
  .slide select {
    grid-column: 1 / -1;
    width: 100%;
    min-height: 44px;
    accent-color: var(--color-act);
  }
  .slide select {
    padding: 0 10px;
    border: 1.5px solid var(--color-ink);
    background: var(--color-slip);
    font-weight: 600;
  }
  .three {
    display: grid;
    grid-template-columns: repeat(3, minmax(0, 1fr));
    gap: 20px 36px;
    margin-top: 18px;
  }
  @media (max-width: 1000px) {
    .work,
    .three {
      grid-template-columns: minmax(0, 1fr);
    }
    .answer,
    .curve,
    .worth,
    .if {
      grid-area: auto;
    }
  }
  @media print {
    .if,
    .enter {
      display: none;
    }
    .work {
      grid-template-columns: 1fr 1fr;
    }
  }
</style>
