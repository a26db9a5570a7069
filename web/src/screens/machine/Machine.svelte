<!-- One machine: what is due, what the answers come to, and what is assumed. -->
<script lang="ts">
  import { ask, client, problemOf, type Problem, type Schemas } from '../../data/api'
  import Around from '../../ui/Around.svelte'
  import Boilers from '../shared/Boilers.svelte'
  import Away from './Away.svelte'
  import Counter from './Counter.svelte'
  import DoneBefore from '../shared/DoneBefore.svelte'
  import Facts from '../shared/Facts.svelte'
  import Lead from '../shared/Lead.svelte'
  import Ledger from './Ledger.svelte'
  import SeenList from '../shared/SeenList.svelte'
  import Sittings from '../shared/Sittings.svelte'
  import SignOff from '../shared/SignOff.svelte'
  import { day, groupOf, stamp, theMachine, treatments } from '../../ui/format'
  import PlanTicket from '../shared/PlanTicket.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { navigate, p, route } from '../../router'
  import Ruler from '../../ui/Ruler.svelte'
  import StartWash from '../shared/StartWash.svelte'
  import UseFile from './UseFile.svelte'
  import VoidRun from '../shared/VoidRun.svelte'
  import { loadHazards } from '../../data/state.svelte'

  let machine = $state<Schemas['Machine']>()
  let problem = $state<Problem>()
  const id = $derived((route.params as { id?: string }).id ?? '')

  async function load(of: string) {
    try {
      machine = await ask(client.GET('/machines/{machine_id}', { params: { path: { machine_id: of } } }))
      document.title = `${machine.name} · Fresh Anvil`
      problem = undefined
    } catch (error) {
      problem = problemOf(error)
    }
  }
  $effect(() => void load(id))
  let entries = $state(0) // counts up when the ledger was added to elsewhere
  async function reread(of: string) {
    await load(of)
    entries++
  }

  let details = $state({ name: '', owner: '', place: '' })
  let refused = $state<Problem>()
  $effect(() => {
    if (machine) details = { name: machine.name, owner: machine.owner, place: machine.place }
  })
  async function describe(archived: boolean) {
    try {
      machine = await ask(client.POST('/machines/{machine_id}/details', { params: { path: { machine_id: id } }, body: { version: machine!.version, ...details, archived } }))
      refused = undefined
    } catch (error) {
      refused = problemOf(error)
    }
  }
  async function seen() {
    await ask(client.DELETE('/machines/{machine_id}/moved', { params: { path: { machine_id: id } }, parseAs: 'text' }))
    await load(id)
  }
  const stopped = $derived(machine?.hazards.find((h) => h.chemical === 'stopped'))
  async function unsee(look: string) {
    try {
      await ask(client.DELETE('/machines/{machine_id}/looks/{look_id}', { params: { path: { machine_id: id, look_id: look } }, parseAs: 'text' }))
      await load(id)
    } catch (error) {
      problem = problemOf(error)
    }
  }
  async function signed() {
    await load(id)
    await loadHazards()
  }
  const valves = { yes: 'with a three-way valve', no: 'no three-way valve', cannot_tell: 'nobody can tell about the valve' }
</script>

{#if problem}<div class="px-8"><ProblemNote {problem} /></div>{/if}
{#if machine}
  {@const m = machine}
  {@const a = m.answers}
  <div class="sheet">
    <div class="left">
      <div class="label-voice">{m.plan.layout_title}, {valves[a.valve]}</div>
      <h1 class="huge-voice text-[clamp(40px,5vw,64px)]">{m.name}</h1>
      {#if m.archived}<p class="mt-3"><b>Archived.</b> It stands on no bench; its log is kept.</p>{/if}
      {#if m.trouble}<p class="text-stop mt-3"><b>Something of its record cannot be read:</b> {m.trouble}.</p>{/if}
      {#if m.moved.length > 0}
        <div class="caution mt-3 max-w-2xl">
          <b>The update moved {m.moved.length === 1 ? 'a date' : 'dates'}: what was answered before now counts for its own time.</b>
          {#each m.moved as x (x.task + x.part)}<p>{x.title}{groupOf(x.part) > 0 && m.plan.groups > 1 ? `, group ${groupOf(x.part)}` : ''}: was {day(x.was, m.zone)}, is {day(x.is, m.zone)}.</p>{/each}
          <button type="button" class="btn btn-outline btn-primary mt-2" onclick={seen}>I have seen it</button>
        </div>
      {/if}
      {#if m.open_run?.unreadable}
        <div class="mt-3 grid max-w-2xl gap-2">
          <p><b>A run on it cannot be carried on:</b> its plan cannot be read any more. End it by name; what is in the machine stays on record.</p>
          <VoidRun run={m.open_run.id} onended={signed} />
        </div>
      {/if}
      {#if m.owner || m.place}<p class="mt-3">{[m.owner, m.place].filter(Boolean).join(', ')}</p>{/if}
      <p class="mt-3">{a.drinks_per_day} drinks a day, {a.milk_drinks_per_day} with milk. What treats the water: {treatments[a.treatment]}.</p>
      <div class="mt-3 flex flex-wrap gap-3">
        <a class="btn btn-outline btn-primary" href={p('/machines/:id/answers', { params: { id: m.id } })}>Change the answers</a>
        <a class="btn btn-outline btn-primary" href={p('/machines/:id/tape', { params: { id: m.id } })}>Its tape</a>
        <a class="btn btn-outline btn-primary" href={p('/machines/:id/card', { params: { id: m.id } })}>Its card</a>
        <a class="btn btn-outline btn-primary" href={p('/machines/:id/walk', { params: { id: m.id } })}>Walk round it</a>
        <a class="btn btn-outline btn-primary" href={p('/machines/:id/diagnose', { params: { id: m.id } })}>Something is wrong</a>
        <a class="btn btn-outline btn-primary" href={p('/machines/:id/log', { params: { id: m.id } })}>See its log</a>
        <a class="btn btn-outline btn-primary" href={p('/machines/:id/schools', { params: { id: m.id } })}>How often, and how</a>
        <a class="btn btn-outline btn-primary" href={p('/machines/:id/water', { params: { id: m.id } })}>Its water</a>
        <a class="btn btn-outline btn-primary" href={p('/machines/:id/descale', { params: { id: m.id } })}>Descale card</a>
        <a class="btn btn-outline btn-primary" href={p('/machines/:id/close', { params: { id: m.id } })}>Tonight's close</a>
        {#if m.plan.wash}<a class="btn btn-outline btn-primary" href={p('/machines/:id/mix', { params: { id: m.id } })}>See the dose</a>{/if}
      </div>

      {#if stopped}
        <section class="border-stop mt-8 max-w-3xl border-[6px] px-4 py-3" role="alert">
          <h2 class="head-voice text-[28px]">Switch off, and do not use it</h2>
          <p class="mb-2"><b>{stopped.text}.</b> Nothing is led on it meanwhile.</p>
          <SignOff machine={m.id} part={theMachine} what="stopped" onsigned={signed} />
        </section>
      {/if}
      {#if m.found.length > 0}
        <section class="border-ink mt-8 border-t-2 pt-3">
          <h2 class="head-voice text-[28px]">What was found</h2>
          {#if m.fits.length > 0}<p class="mb-2"><b>To fit:</b> {m.fits.map((f) => `${f.what}${m.plan.groups > 1 && groupOf(f.part) > 0 ? ` (group ${groupOf(f.part)})` : ''}`).join(', ')}.</p>{/if}
          <SeenList list={m.found} groups={m.plan.groups} zone={m.zone} machine={m.id} ontake={unsee} />
        </section>
      {/if}
      {#if m.sittings.length > 0}
        <section class="border-ink mt-8 border-t-2 pt-3">
          <h2 class="head-voice text-[28px]">In one sitting</h2>
          <p class="mb-2 max-w-2xl">What is done together; the run says in which order. A task comes up to a third of its time early where that saves a laying out, a cooling down or a shut supply (our own choice). The daily jobs ride along.</p>
          <Sittings list={m.sittings} zone={m.zone} groups={m.plan.groups} machine={m.id} busy={m.open_run !== undefined || m.hazards.length > 0} />
        </section>
      {/if}
      {#each m.plan.dues as due (due.task + due.part)}
        {@const inside = groupOf(due.part) > 0 ? m.hazards.filter((h) => h.part === due.part) : []}
        {@const dirty = inside.some((h) => h.chemical === 'detergent')}
        <section class="border-ink mt-8 border-t-2 pt-3">
          <h2 class="head-voice text-[28px]">{due.title}{m.plan.groups > 1 && groupOf(due.part) > 0 ? `, group ${groupOf(due.part)}` : ''}</h2>
          <p class="mt-1">
            {#if due.state === 'overdue'}<b class="text-stop">Overdue.</b>
            {:else if due.state === 'unrecorded'}{due.says}
            {:else if due.state === 'today'}<b>Due today.</b>
            {:else if due.days}Next <Around {due} zone={m.zone} />.{/if}
            {#if due.last}{due.begun ? 'Counted from' : 'Last done'} {stamp(due.last, m.zone)}.{/if}
          </p>
          {#if due.how && (due.way === 'record' || due.state !== 'later')}<p class="mt-1 max-w-2xl">{due.how}</p>{/if}
          <div class="mt-3 grid max-w-xl gap-2">
            {#each due.clocks as clock (clock.kind)}<Ruler {clock} {due} zone={m.zone} />{/each}
          </div>
          {#each due.because.filter((r) => !m.plan.intervals.some((i) => i.because.some((x) => x.text === r.text))) as r}<p class="text-ink-2 mt-1 max-w-2xl text-[15px]">{r.text}</p>{/each}
          <div class="mt-4 grid gap-3">
            {#if m.open_run}
              {@const run = m.open_run.id}
              {#if m.open_run.parts.includes(due.part) && !m.open_run.unreadable}<button type="button" class="btn btn-primary justify-self-start" onclick={() => navigate('/machines/:id/runs/:run', { params: { id: m.id, run } })}>Go back to the run</button>{/if}
            {:else if stopped}
              <p>Not before a technician has seen it.</p>
            {:else if inside.some((h) => h.bars)}
              <p>No run is begun on it. Leave the handle locked and call a technician.</p>
            {:else if due.doses && inside.some((h) => h.chemical === 'pressure')}
              <div><StartWash machine={m.id} parts={[due.part]} task="unblock" text="Free the group" /></div>
            {:else if due.doses}
              <div><StartWash machine={m.id} parts={[due.part]} text={dirty ? 'Start the rinse' : 'Start the wash'} line={due.state === 'later' && !dirty} /></div>
            {:else if due.way === 'plan'}
              <div><a class="btn btn-primary" class:btn-outline={due.state === 'later' && !m.hazards.some((h) => h.chemical === 'acid')} href={p('/machines/:id/descale', { params: { id: m.id } })}>{m.hazards.some((h) => h.chemical === 'acid') ? 'Rinse the acid out' : 'See the plan'}</a></div>
              {#if m.hazards.some((h) => h.chemical === 'acid')}<SignOff machine={m.id} part={theMachine} onsigned={signed} />{/if}
            {:else if due.way === 'lead' && inside.length === 0}
              <div><Lead machine={m.id} {due} parts={[due.part]} line={due.state === 'later'} /></div>
            {/if}
            {#if inside.length === 0}<DoneBefore machine={m.id} {due} onrecorded={() => load(m.id)} />{/if}
            {#each due.doses ? inside.filter((h) => h.chemical === 'pressure') : [] as h (h.chemical)}<p class="text-stop"><b>{h.text}.</b></p>{/each}
            {#if inside.length > 0 && due.doses && !m.open_run}<SignOff machine={m.id} part={due.part} onsigned={signed} />{/if}
          </div>
        </section>
      {/each}

      <section class="border-ink mt-8 border-t-2 pt-3"><Boilers machine={m.id} zone={m.zone} onkept={() => load(m.id)} /></section>
      <section class="mt-10">
        <h2 class="head-voice mb-3 text-[28px]">Days nobody is there</h2>
        <p class="mb-2"><a class="inline-flex min-h-11 items-center underline underline-offset-4" href={p('/machines/:id/rest', { params: { id: m.id } })}>Closed for weeks: closing, visits and the return</a></p>
        <Away machine={m.id} list={m.away} onchanged={(changed) => (machine = changed)} />
      </section>
      <section class="mt-10">
        <h2 class="head-voice mb-3 text-[28px]">The machine's own counter</h2>
        <Counter machine={m.id} zone={m.zone} counter={m.counter} onread={() => reread(m.id)} />
      </section>
      <section class="mt-10">
        <h2 class="head-voice mb-3 text-[28px]">Use from a file</h2>
        <UseFile machine={m.id} zone={m.zone} onkept={() => reread(m.id)} />
      </section>
      <section class="mt-10">
        <h2 class="head-voice mb-3 text-[28px]">What is known of it</h2>
        <Facts machine={m.id} version={m.version} facts={m.facts} onchanged={(changed) => (machine = changed)} />
      </section>
      <section class="mt-10">
        <h2 class="head-voice mb-3 text-[28px]">Use, newest first</h2>
        {#key entries}<Ledger machine={m.id} zone={m.zone} onchanged={() => load(m.id)} />{/key}
      </section>
      <section class="mt-10">
        <h2 class="head-voice mb-3 text-[28px]">Whose it is</h2>
        <form
          class="details"
          novalidate
          onsubmit={(e) => {
            e.preventDefault()
            void describe(m.archived)
          }}
        >
          <label>Name <input bind:value={details.name} maxlength="80" /></label>
          <label>Owner <input bind:value={details.owner} maxlength="80" /></label>
          <label>Place <input bind:value={details.place} maxlength="80" /></label>
          {#if refused}<ProblemNote problem={refused} />{/if}
          <div class="flex flex-wrap gap-3">
            <button class="btn btn-primary">Save</button>
            <button type="button" class="btn btn-outline btn-primary" onclick={() => describe(!m.archived)}>{m.archived ? 'Put it back on the bench' : 'Archive this machine'}</button>
          </div>
        </form>
      </section>
    </div>
    <aside class="right"><PlanTicket plan={m.plan} zone={m.zone} /></aside>
  </div>
{/if}

<style>
  .details {
    display: grid;
    gap: 12px;
    max-width: 560px;
  }
  .details label {
    display: grid;
    grid-template-columns: 90px 1fr;
    align-items: center;
    font-weight: 600;
  }
  .details input {
    height: 46px;
    padding: 0 12px;
    border: 1.5px solid var(--color-ink);
    background: var(--color-slip);
  }
  .sheet {
    display: grid;
    grid-template-columns: 1fr 470px;
    flex-grow: 1;
  }
  .left {
    padding: 28px 40px 60px 32px;
  }
  .right {
    background: var(--color-slip);
    border-left: 2px dashed var(--color-rule);
    padding: 28px 32px 40px;
  }
  @media (max-width: 1000px) {
    .sheet {
      grid-template-columns: 1fr;
    }
    .left,
    .right {
      padding: 20px;
    }
    .right {
      border-left: 0;
      border-top: 2px dashed var(--color-rule);
    }
  }
</style>
