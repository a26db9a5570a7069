<!-- One machine at a glance: what to do, a drawing that is its form, what is worth finding out, and a year on one
     strip. Everything else is folded. -->
<script lang="ts">
  import { tick } from 'svelte'
  import { ask, client, type Schemas } from '../../data/api'
  import { Resource } from '../../data/resource.svelte'
  import { loadHazards } from '../../data/state.svelte'
  import { navigate, p, route } from '../../router'
  import { groupOf, treatments } from '../../ui/format'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import Ruler from '../../ui/Ruler.svelte'
  import type { Spot } from '../../ui/scheme'
  import Begin from '../shared/Begin.svelte'
  import Drawn from './Drawn.svelte'
  import Folds from './Folds.svelte'
  import Job from './Job.svelte'
  import Notices from './Notices.svelte'
  import Ways from './Ways.svelte'
  import WorthList from './WorthList.svelte'
  import YearDone from './YearDone.svelte'

  const page = new Resource<[Schemas['Machine'], Schemas['Glance']]>()
  const machine = $derived(page.value?.[0])
  const glance = $derived(page.value?.[1])
  let picked = $state<Spot>()
  let fact = $state<string>()
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
    (glance?.leads ?? []).flatMap(
      (l) => machine?.plan.dues.find((d) => d.task === l.task && d.part === l.part) ?? [],
    ),
  )
  const together = $derived(glance?.front.begin === 'sheet' || glance?.front.begin === 'order')
  const first = $derived(machine?.plan.dues.find((d) => d.now && d.way !== 'small') ?? machine?.plan.dues[0])
  // what begins it is for the groups that need it, as on the bench
  const single = $derived.by(() => {
    const front = glance?.alone ?? glance?.front
    return front?.begin === 'run' && front.task === first?.task && front.parts?.includes(first!.part)
      ? front
      : undefined
  })
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
          <h2 class="label-voice">
            {together ? 'Or by itself: ' : ''}{single?.head ?? first.title + groupIn(first.part)}
          </h2>
          <Job
            {m}
            due={first}
            parts={single?.parts}
            {stopped}
            lead
            line={together}
            onchanged={() => load(m.id)}
            onsigned={signed}
          />
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
        {m.answers.drinks_per_day} drinks a day, {m.answers.milk_drinks_per_day} with milk;
        {`what treats the water: ${treatments[m.answers.treatment]}.`}
        <a
          class="for-keeper inline-flex min-h-11 items-center underline underline-offset-4"
          href={p('/machines/:id/answers', to)}>Change the answers</a
        >
      </p>
    </div>
  </div>
  <Ways {m} />
  <Folds {m} {g} {stopped} {page} onchanged={() => load(m.id)} onsigned={signed} />
  {#if m.open_run && !m.open_run.unreadable}
    {@const run = m.open_run.id}
    <div class="px-5 pb-6 md:px-8">
      <button
        type="button"
        class="btn btn-primary"
        onclick={() => navigate('/machines/:id/runs/:run', { params: { id: m.id, run } })}
        >Go back to the run</button
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
  @media (max-width: 1000px) {
    .sheet {
      display: block;
    }
    .head,
    .form,
    .right {
      padding-left: 20px;
      padding-right: 20px;
    }
    .right {
      margin-top: 12px;
      border-bottom: 2px dashed var(--color-rule);
    }
  }
</style>
