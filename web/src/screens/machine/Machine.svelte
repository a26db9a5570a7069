<!-- One machine at a glance: what to do, a drawing that is its form, what is worth finding out, and a year on one strip. Everything else is folded. -->
<script lang="ts">
  import { tick } from 'svelte'
  import { ask, client, type Schemas } from '../../data/api'
  import { Resource } from '../../data/resource.svelte'
  import { loadHazards } from '../../data/state.svelte'
  import { navigate, p, route } from '../../router'
  import Around from '../../ui/Around.svelte'
  import Fold from '../../ui/Fold.svelte'
  import { groupOf, treatments } from '../../ui/format'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import Ruler from '../../ui/Ruler.svelte'
  import type { Spot } from '../../ui/scheme'
  import Begin from '../shared/Begin.svelte'
  import Boilers from '../shared/Boilers.svelte'
  import Facts from '../shared/Facts.svelte'
  import PlanTicket from '../shared/PlanTicket.svelte'
  import SeenList from '../shared/SeenList.svelte'
  import Sittings from '../shared/Sittings.svelte'
  import Away from './Away.svelte'
  import Counter from './Counter.svelte'
  import Drawn from './Drawn.svelte'
  import Job from './Job.svelte'
  import Ledger from './Ledger.svelte'
  import Notices from './Notices.svelte'
  import Plate from './Plate.svelte'
  import UseFile from './UseFile.svelte'
  import WorthList from './WorthList.svelte'
  import YearDone from './YearDone.svelte'

  const page = new Resource<[Schemas['Machine'], Schemas['Glance']]>()
  const machine = $derived(page.value?.[0])
  const glance = $derived(page.value?.[1])
  let picked = $state<Spot>()
  let fact = $state<string>()
  let entries = $state(0) // counts up when the ledger was added to elsewhere
  const id = $derived((route.params as { id?: string }).id ?? '')
  const at = (of: string) => ({ params: { path: { machine_id: of } } })

  async function load(of: string) {
    const got = await page.ask((signal) =>
      Promise.all([
        ask(client.GET('/machines/{machine_id}', { ...at(of), signal })),
        ask(client.GET('/machines/{machine_id}/glance', { ...at(of), signal })),
      ]),
    )
    if (got) document.title = `${got[0].name} · Fresh Anvil`
  }
  $effect(() => void load(id))
  async function reread() {
    await load(id)
    entries++
  }
  const attempt = (call: Promise<unknown>) =>
    page.change(
      () => call,
      () => load(id),
    )
  const signed = async () => void (await Promise.all([load(id), loadHazards()]))
  const stopped = $derived(machine?.hazards.some((h) => h.chemical === 'stopped') ?? false)
  const groupIn = (part: string) =>
    machine && machine.plan.groups > 1 && groupOf(part) > 0 ? `, group ${groupOf(part)}` : ''
  const leads = $derived(
    (glance?.leads ?? []).flatMap((l) => machine?.plan.dues.find((d) => d.task === l.task && d.part === l.part) ?? []),
  )
  const together = $derived(glance?.front.begin === 'sheet' || glance?.front.begin === 'order')
  const first = $derived(machine?.plan.dues.find((d) => d.now && d.way !== 'small') ?? machine?.plan.dues[0])
</script>

{#if page.problem}<div class="px-8"><ProblemNote problem={page.problem} /></div>{/if}
{#if machine && glance}
  {@const m = machine}
  {@const g = glance}
  {@const to = { params: { id: m.id } }}
  <div class="sheet">
    <div class="head">
      <div class="label-voice">
        {[m.owner, m.place, m.plan.layout_title].filter(Boolean).join(' · ')}{#if g.plate.model}{' · '}{g.plate
            .model}{/if}
      </div>
      <h1 class="huge-voice text-[clamp(40px,5vw,64px)]">{m.name}</h1>
      <p class="verdict">
        <b class:text-stop={stopped}>{stopped ? 'Switched off: do not use it.' : g.does}</b>
        {stopped ? '' : g.says.join(' ')}
      </p>
      <Notices
        {m}
        onseen={() => attempt(ask(client.DELETE('/machines/{machine_id}/moved', { ...at(m.id), parseAs: 'text' })))}
        onsigned={signed}
      />
    </div>
    <aside class="torn right">
      <div class="job-now">
        {#if together}
          <h2 class="head-voice mb-2 text-[24px]">{g.front.head}</h2>
          <Begin machine={m.id} front={g.front} />
        {/if}
        {#if first && !stopped}
          <h2 class="label-voice">{together ? 'Or by itself: ' : ''}{first.title}{groupIn(first.part)}</h2>
          <Job {m} due={first} {stopped} lead line={together} onchanged={() => load(m.id)} onsigned={signed} />
        {/if}
        <div class="mt-4 grid gap-2">
          {#each leads.filter((d) => d !== first) as due (due.task)}<div>
              <span class="label-voice">{due.title}</span><Ruler clock={due.clocks[0]!} {due} zone={m.zone} />
            </div>{/each}
        </div>
      </div>
      <div class="more">
        <WorthList
          list={g.worth}
          machine={m.id}
          onpick={async (spot, key) => {
            picked = spot
            fact = key
            await tick()
            document.querySelector('form.edit')?.scrollIntoView({ block: 'center' })
          }}
        />
        <YearDone glance={g} zone={m.zone} />
      </div>
    </aside>
    <div class="form">
      <Drawn glance={g} machine={m.id} version={m.version} bind:picked {fact} onchanged={() => load(m.id)} />
      <p class="mt-2 text-[15px]">
        {m.answers.drinks_per_day} drinks a day, {m.answers.milk_drinks_per_day} with milk; what treats the water: {treatments[
          m.answers.treatment
        ]}.
        <a class="inline-flex min-h-11 items-center underline underline-offset-4" href={p('/machines/:id/answers', to)}
          >Change the answers</a
        >
      </p>
    </div>
  </div>
  <nav class="ways" aria-label="More of this machine">
    <a href={p('/machines/:id/walk', to)}>Walk round it</a>
    <a href={p('/machines/:id/diagnose', to)}>Something is wrong</a>
    <a href={p('/machines/:id/water', to)}>Its water</a>
    <a href={p('/machines/:id/descale', to)}>Descale card</a>
    {#if m.plan.wash}<a href={p('/machines/:id/mix', to)}>See the dose</a>{/if}
    <a href={p('/machines/:id/schools', to)}>How often, and how</a>
    <a href={p('/machines/:id/tape', to)}>Its tape</a>
    <a href={p('/machines/:id/card', to)}>Its card</a>
    <a href={p('/machines/:id/close', to)}>Tonight's close</a>
    <a href={p('/machines/:id/rest', to)}>Closed for weeks</a>
    <a href={p('/machines/:id/log', to)}>See its log</a>
  </nav>
  <div class="folds">
    {#if m.found.length > 0}
      <Fold
        title="What was found"
        note={m.fits.length > 0
          ? `to fit: ${m.fits.map((f) => `${f.what}${groupIn(f.part)}`).join(', ')}`
          : `${m.found.length} looks`}
      >
        <SeenList
          list={m.found}
          groups={m.plan.groups}
          zone={m.zone}
          machine={m.id}
          ontake={(look) =>
            attempt(
              ask(
                client.DELETE('/machines/{machine_id}/looks/{look_id}', {
                  params: { path: { machine_id: m.id, look_id: look } },
                  parseAs: 'text',
                }),
              ),
            )}
        />
      </Fold>
    {/if}
    {#if m.sittings.length > 0}
      <Fold title="In one sitting" note="what is done together, and when">
        <p class="mb-2 max-w-2xl">
          What is done together; the run says in which order. A task comes up to a third of its time early where that
          saves a laying out, a cooling down or a shut supply (our own choice). The daily jobs ride along.
        </p>
        <Sittings
          list={m.sittings}
          zone={m.zone}
          groups={m.plan.groups}
          machine={m.id}
          busy={m.open_run !== undefined || m.hazards.length > 0}
        />
      </Fold>
    {/if}
    <Fold title="Every job, with its date" note={`${m.plan.dues.length} of them`}>
      <ul>
        {#each m.plan.dues as due (due.task + due.part)}
          <li>
            <details class="job">
              <summary
                ><b>{due.title}{groupIn(due.part)}</b><span class:text-stop={due.state === 'overdue'}
                  >{#if due.state === 'overdue'}overdue{:else if due.state === 'unrecorded'}nothing on record{:else if due.state === 'today'}today{:else if due.days}<Around
                      {due}
                      zone={m.zone}
                    />{/if}</span
                ></summary
              ><Job {m} {due} {stopped} onchanged={() => load(m.id)} onsigned={signed} />
            </details>
          </li>
        {/each}
      </ul>
    </Fold>
    <Fold title="What the answers come to" note="dose, intervals, assumptions"
      ><div class="max-w-xl"><PlanTicket plan={m.plan} zone={m.zone} /></div></Fold
    >
    <Boilers machine={m.id} zone={m.zone} onkept={() => load(m.id)} />
    <Fold title="How it is used, and who may do what" note="facts of the whole machine">
      <Facts
        machine={m.id}
        version={m.version}
        facts={g.parts.find((x) => x.spot === 'machine')?.facts ?? []}
        onchanged={() => load(m.id)}
      />
    </Fold>
    <Fold title="Days nobody is there" note={m.away.length > 0 ? `${m.away.length} entered` : ''}>
      <Away machine={m.id} list={m.away} onchanged={() => load(m.id)} />
    </Fold>
    <Fold title="The machine's own counter"
      ><Counter machine={m.id} zone={m.zone} counter={m.counter} onread={reread} /></Fold
    >
    <Fold title="Use from a file"><UseFile machine={m.id} zone={m.zone} onkept={reread} /></Fold>
    <Fold title="Use, newest first"
      >{#key entries}<Ledger machine={m.id} zone={m.zone} onchanged={() => load(m.id)} />{/key}</Fold
    >
    <Fold title="Whose it is, its plate, parts and a photo" note={[m.owner, g.plate.serial].filter(Boolean).join(', ')}
      ><Plate machine={m} plate={g.plate} fitted={g.fitted} onchanged={() => load(m.id)} /></Fold
    >
  </div>
  {#if m.open_run && !m.open_run.unreadable}
    {@const run = m.open_run.id}
    <div class="px-5 pb-6 md:px-8">
      <button
        type="button"
        class="btn btn-primary"
        onclick={() => navigate('/machines/:id/runs/:run', { params: { id: m.id, run } })}>Go back to the run</button
      >
    </div>
  {/if}
{/if}

<style>
  .sheet {
    display: grid;
    grid-template: auto 1fr / minmax(0, 1fr) 430px;
  }
  .head {
    grid-area: 1 / 1;
    padding: 20px 32px 0;
  }
  .form {
    grid-area: 2 / 1;
    padding: 6px 32px 16px;
  }
  .verdict {
    margin: 10px 0 6px;
    font-size: 21px;
    line-height: 1.3;
  }
  .right {
    grid-area: 1 / 2 / 3 / 3;
    padding: 20px 24px 24px;
  }
  .ways {
    display: flex;
    flex-wrap: wrap;
    gap: 0 26px;
    padding: 6px 32px;
    border-top: 2px solid var(--color-ink);
    border-bottom: 2px solid var(--color-ink);
  }
  .ways a {
    display: inline-flex;
    align-items: center;
    min-height: 44px;
    font-stretch: 82%;
    font-weight: 600;
    text-decoration: underline;
    text-underline-offset: 4px;
    text-decoration-thickness: 1px;
  }
  .folds {
    padding: 4px 32px 60px;
    max-width: 1100px;
  }
  .job {
    border-bottom: 1px solid var(--color-rule);
  }
  .job summary {
    display: flex;
    flex-wrap: wrap;
    justify-content: space-between;
    align-items: center;
    gap: 0 20px;
    min-height: 46px;
    cursor: pointer;
  }
  .job[open] {
    padding-bottom: 20px;
  }
  @media (max-width: 1000px) {
    .sheet {
      display: block;
    }
    .head,
    .form,
    .right,
    .ways,
    .folds {
      padding-left: 20px;
      padding-right: 20px;
    }
    .right {
      margin-top: 12px;
      border-bottom: 2px dashed var(--color-rule);
    }
  }
</style>
