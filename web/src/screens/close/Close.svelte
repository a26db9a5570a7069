<!-- Tonight's jobs of a machine, ticked with who and when. On a bar tablet it is all there is. -->
<script lang="ts">
  import { ask, client, newId, type Schemas } from '../../data/api'
  import { Resource } from '../../data/resource.svelte'
  import Band from '../../ui/Band.svelte'
  import { day } from '../../ui/format'
  import Beside from './Beside.svelte'
  import CloseJob from './CloseJob.svelte'
  import InOneGo from './InOneGo.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { navigate, p, route } from '../../router'
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
        <InOneGo {c} t={c.together} />
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
    <aside class="torn"><Beside {c} {bar} /></aside>
  {/if}
</div>

<style>
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
