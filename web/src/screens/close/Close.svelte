<!-- Tonight's jobs of a machine, ticked with who and when. On a bar tablet it is all there is. -->
<script lang="ts">
  import { ask, client, newId, type Schemas } from '../../data/api'
  import { Resource } from '../../data/resource.svelte'
  import Band from '../../ui/Band.svelte'
  import { clock, day, inHours, weekday } from '../../ui/format'
  import Num from '../../ui/Num.svelte'
  import CloseJob from './CloseJob.svelte'
  import NightStrip from './NightStrip.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { navigate, p, route } from '../../router'
  import StartWash from '../shared/StartWash.svelte'
  import { isPlain, loadHazards } from '../../data/state.svelte'

  const page = new Resource<Schemas['Closing']>()
  const close = $derived(page.value)
  let told = $state('') // what was just ticked, for who listens
  const id = $derived((route.params as { id?: string }).id ?? '')
  const bar = $derived(route.pathname.endsWith('/bar'))
  const whoKey = 'freshanvil.closer'
  let who = $state(read())
  function read(): string {
    try {
      return localStorage.getItem(whoKey) ?? ''
    } catch {
      return ''
    }
  }
  function choose(initials: string) {
    who = who === initials ? '' : initials
    try {
      localStorage.setItem(whoKey, who)
    } catch {
      // it is asked again after a reload
    }
  }

  async function load(of: string) {
    const params = { path: { machine_id: of } }
    const got = await page.ask((signal) => ask(client.GET('/machines/{machine_id}/close', { params, signal })))
    if (got) document.title = `Close, ${got.machine_name} · Fresh Anvil`
  }
  $effect(() => {
    void load(id)
    const again = setInterval(() => void load(id), 60_000) // another device may have ticked meanwhile
    return () => clearInterval(again)
  })

  type Job = Schemas['CloseJob']
  async function change(call: () => Promise<unknown>, text: string) {
    if (!(await page.change(call, () => load(id)))) return
    told = text
    void loadHazards()
  }
  const tick = (j: Job) =>
    change(
      () =>
        ask(
          client.POST('/machines/{machine_id}/small', {
            params: { path: { machine_id: id } },
            body: {
              id: newId(),
              tasks: [j.task as Schemas['SmallDone']['tasks'][number]],
              at: new Date().toISOString(),
              ...(who && { by: who }),
            },
          }),
        ),
      `${j.title}: done`,
    )
  const untick = (j: Job) =>
    change(
      () =>
        ask(
          client.DELETE('/machines/{machine_id}/care/{care_id}', {
            params: { path: { machine_id: id, care_id: j.care_id! } },
            parseAs: 'text',
          }),
        ),
      `${j.title}: taken back`,
    )

  const left = $derived(close?.jobs.filter((j) => !j.done_at) ?? [])
  function key(event: KeyboardEvent) {
    if (!isPlain(event)) return
    const j = close?.jobs[Number(event.key) - 1]
    if (j && !j.done_at && j.tick) void tick(j)
  }
</script>

<svelte:window onkeydown={key} />
{#if bar}<Band />{/if}
<div class="page" class:bar>
  <ProblemNote problem={page.problem} />
  {#if close}
    {@const c = close}
    <section class="jobs">
      <div class="head">
        <div>
          <div class="label-voice">{c.machine_name}, {day(c.day, c.zone)}</div>
          <h1 class="huge-voice text-[clamp(36px,5vw,60px)]">
            {left.length === 0 ? 'Closed.' : `Tonight: ${left.length} to do`}
          </h1>
        </div>
        {#if c.people.length > 0}
          <div class="who" role="group" aria-label="Who closes">
            <span class="label-voice">who</span>
            {#each c.people as x (x.id)}<button
                type="button"
                class="initials"
                aria-pressed={who === x.initials}
                aria-label={x.name}
                onclick={() => choose(x.initials)}>{x.initials}</button
              >{/each}
          </div>
        {/if}
      </div>
      {#if c.open_run && !c.open_run.unreadable}
        {@const run = c.open_run.id}
        <p class="open">
          <b>{c.open_run.title} is under way.</b>
          <button
            type="button"
            class="btn btn-primary"
            onclick={() => navigate('/machines/:id/runs/:run', { params: { id: c.machine_id, run } })}
            >Go back to it</button
          >
        </p>
      {/if}
      {#if c.together && !c.open_run && c.hazards.length === 0}
        {@const t = c.together}
        <div class="in-one">
          <p>
            <b
              >{t.titles.map((x, i) => (i > 0 ? x.charAt(0).toLowerCase() + x.slice(1) : x)).join(', ')}: led in one
              go.</b
            >
            <Num worked={t.minutes} text={inHours(Math.round(t.minutes.value) * 60)} />, of it {inHours(
              Math.round(t.hands_min) * 60,
            )} with your hands; begun now, done at {clock(t.end_at, c.zone)}. Called away, the run waits and says until
            when.
          </p>
          {#key JSON.stringify(t.tasks)}<StartWash
              machine={c.machine_id}
              parts={t.tasks[0]!.parts}
              task={t.tasks[0]!.task as Schemas['NewRun']['task']}
              more={{ with: t.tasks.slice(1) }}
              text="Start the close"
            />{/key}
        </div>
      {/if}
      <ol>
        {#each c.jobs as j, n (j.task)}
          <CloseJob {c} {j} {n} {bar} ontick={() => tick(j)} onuntick={() => untick(j)} />
        {/each}
      </ol>
      {#if c.morning.length > 0}<p class="mt-3">
          <b>Tomorrow, before it is switched on:</b>
          {c.morning.map((x) => x.toLowerCase()).join(', ')}. What is opened must be cold. {#if !bar}<a
              class="underline underline-offset-4"
              href={p('/machines/:id', { params: { id: c.machine_id } })}>Its page leads it</a
            >{/if}
        </p>{/if}
      <p class="sr-only" role="status">{told}</p>
    </section>
    <aside class="torn">
      {#if c.after_drink}
        <h2 class="head-voice text-[26px]">After each drink</h2>
        <p class="mb-2">{c.after_drink.how}</p>
        {#if !c.open_run}<StartWash
            machine={c.machine_id}
            parts={c.groups}
            task="wash"
            method="water_only"
            more={{ pulses: 2 }}
            text="Lead two pulses"
            line
          />{/if}
      {/if}
      <h2 class="head-voice text-[26px]" class:mt-6={c.after_drink}>The nights before</h2>
      <NightStrip nights={c.nights} zone={c.zone} />
      <div class="mt-6 flex flex-wrap gap-3">
        {#if bar}<a
            class="btn btn-outline btn-primary"
            href={p('/machines/:id/close', { params: { id: c.machine_id } })}>All screens</a
          >
        {:else}
          <a class="btn btn-outline btn-primary" href={p('/machines/:id/bar', { params: { id: c.machine_id } })}
            >Show only this, on a bar tablet</a
          >
          <a class="btn btn-outline btn-primary" href={p('/preferences')}>Who closes</a>
        {/if}
      </div>
      <p class="label-voice mt-3">Keys 1 to {c.jobs.length} tick. {weekday(c.day, c.zone)} turns at 04:00.</p>
    </aside>
  {/if}
</div>

<style>
  .in-one {
    display: flex;
    flex-wrap: wrap;
    gap: 10px 24px;
    align-items: center;
    padding: 12px 0 14px;
    border-bottom: 1px solid var(--color-rule);
  }
  .in-one p {
    flex: 1 1 320px;
  }
  .page {
    display: grid;
    grid-template-columns: 1fr 320px;
    grid-template-rows: auto 1fr;
    flex-grow: 1;
  }
  .page > section,
  .page > aside {
    grid-row: 2;
  }
  .page > :global(.caution) {
    grid-column: 1 / -1;
  }
  .jobs {
    padding: 20px 32px 32px;
    min-width: 0;
  }
  .head {
    display: flex;
    flex-wrap: wrap;
    justify-content: space-between;
    align-items: end;
    gap: 12px 24px;
    padding-bottom: 10px;
    border-bottom: 2px solid var(--color-ink);
  }
  .who {
    display: flex;
    align-items: center;
    gap: 8px;
  }
  .initials {
    min-width: 64px;
    height: 60px;
    border: 2px solid var(--color-ink);
    font-size: 26px;
    font-weight: 700;
    font-stretch: 75%;
    cursor: pointer;
  }
  .initials[aria-pressed='true'] {
    background: var(--color-ink);
    color: var(--color-paper);
  }
  .open {
    display: flex;
    flex-wrap: wrap;
    gap: 16px;
    align-items: center;
    padding: 10px 0;
    font-size: 20px;
  }
  @media (max-width: 1000px) {
    .page {
      grid-template-columns: 1fr;
      grid-template-rows: auto;
    }
    .page > section,
    .page > aside {
      grid-row: auto;
    }
    .jobs {
      padding: 16px 20px;
    }
  }
</style>
