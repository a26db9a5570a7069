<!-- What is due now on several machines, in one order of visits: when to go to which, what stands meanwhile, what to
     lay out. It prints. -->
<script lang="ts">
  import { ask, client, problemOf, type BenchMachine, type Schemas } from '../../data/api'
  import { Resource } from '../../data/resource.svelte'
  import { clock, inHours, listed, stamp } from '../../ui/format'
  import Lanes from '../../ui/Lanes.svelte'
  import Num from '../../ui/Num.svelte'
  import PaperSheet from '../../ui/PaperSheet.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { p } from '../../router'
  import StartWash from '../shared/StartWash.svelte'
  import { askBench } from '../../data/state.svelte'

  const page = new Resource<Schemas['Afternoon']>()
  const work = $derived(page.value)
  let machines = $state<BenchMachine[]>([])
  let begin = $state('')
  let chosen = $state<string[]>(new URLSearchParams(location.search).getAll('machine'))
  askBench().then(
    (b) => (machines = b.machines),
    (error: unknown) => (page.problem = problemOf(error)),
  )
  const due = $derived(machines.filter((m) => m.next?.now || chosen.includes(m.id)))
  const picked = $derived(chosen.length > 0 ? chosen : (work?.jobs.map((j) => j.machine_id) ?? []))
  const load = (of: string[], at: string) =>
    page.ask((signal) =>
      ask(
        client.GET('/afternoon', {
          params: { query: { ...(of.length > 0 && { machine: of }), ...(at && { begin: at }) } },
          signal,
        }),
      ),
    )
  $effect(() => void load(chosen, begin))
  function tick(id: string, on: boolean) {
    const next = on ? [...picked, id] : picked.filter((x) => x !== id)
    if (next.length > 0) chosen = [...new Set(next)]
  }
  const spell = (minutes: number) => inHours(Math.round(minutes) * 60)
  // what is led step by step anyway is told by its ends
  const inShort = (steps: string[]) =>
    (steps.length > 7 ? [...steps.slice(0, 4), '…', steps.at(-1)] : steps).join(' · ')
  const lowerFirst = (text: string) => text.charAt(0).toLowerCase() + text.slice(1)
  const inTurn = $derived([...(work?.jobs ?? [])].sort((a, b) => a.begin_at.localeCompare(b.begin_at)))
  // what to pack, each thing once, with how many machines want it
  const wanted = $derived(inTurn.flatMap((j) => [...new Set(j.lay_out)]))
  const pack = $derived(
    [...new Set(wanted)].map((text) =>
      wanted.filter((t) => t === text).length > 1
        ? `${text} (${wanted.filter((t) => t === text).length} times)`
        : text,
    ),
  )
  const placeOf = (name: string) => {
    const m = machines.find((x) => x.name === name)
    return [m?.owner, m?.place].filter(Boolean).join(', ')
  }
  document.title = 'In one go · Fresh Anvil'
</script>

{#if page.problem}<div class="m-4 sm:m-8">
    <ProblemNote problem={page.problem} />
    <p class="mt-4"><a class="underline underline-offset-4" href={p('/')}>To the bench</a></p>
  </div>{/if}
{#if work}
  {@const w = work}
  <PaperSheet>
    <p class="label-voice">In one go: {listed([...new Set(w.jobs.map((j) => j.machine_name))])}</p>
    <h1 class="huge-voice head">Done at {clock(w.end_at, w.zone)}</h1>
    <p>
      <b><Num worked={w.minutes} text={spell(w.minutes.value)} /></b>, of it <b>{spell(w.hands_min)}</b> with your
      hands{#if w.jobs.length > 1}; one after the other it would be <Num
          worked={w.alone}
          text={spell(w.alone.value)}
        />{/if}.
    </p>
    <div class="body">
      <div>
        <Lanes sheet={w} />
        <p class="label-voice mt-2">
          {w.says}
          {#if w.jobs.length > 1}For machines that stand within reach of each other: nothing that soaks is left
            alone in the house.{/if}
          Times are for hands that take as long as planned; each run goes by yours.
        </p>
        <h2 class="head-voice mt-6 text-[28px]">Where to be, when</h2>
        <ol class="visits">
          {#each w.visits as v (v.at + v.job)}
            <li>
              <div>
                <b class="num-voice text-[21px]">{clock(v.at, w.zone)}</b><span class="label-voice block"
                  >to {clock(v.until, w.zone)}</span
                >
              </div>
              <div>
                <h3 class="head-voice text-[21px]">
                  {v.machine_name}{#if placeOf(v.machine_name)}<span class="label-voice ml-2"
                      >{placeOf(v.machine_name)}</span
                    >{/if}
                </h3>
                <p>{inShort(v.steps)}</p>
                {#if v.back_at}<p class="label-voice">
                    Then by itself: {lowerFirst(v.stands ?? 'it stands')}. Back at {clock(v.back_at, w.zone)}.
                  </p>
                {:else if v.last && v.stands}<p class="label-voice">Then by itself: {lowerFirst(v.stands)}.</p>{/if}
              </div>
            </li>
          {/each}
        </ol>
      </div>
      <aside>
        <label class="begin"
          ><span>Begin at</span><input type="time" bind:value={begin} aria-label="Begin at" /></label
        >
        <p class="label-voice mt-1">{stamp(w.start_at, w.zone)}</p>
        <button type="button" class="btn btn-outline mt-3 w-full" onclick={() => print()}>Print</button>
        {#if due.length > 1}
          <fieldset class="whose mt-5">
            <legend class="label-voice">Machines</legend>
            {#each due as m (m.id)}
              <label
                ><input
                  type="checkbox"
                  checked={picked.includes(m.id)}
                  disabled={picked.length === 1 && picked.includes(m.id)}
                  onchange={(e) => tick(m.id, e.currentTarget.checked)}
                />
                {m.name}{m.place ? `, ${m.place}` : ''}</label
              >
            {/each}
          </fieldset>
        {/if}
        <h2 class="head-voice mt-5 text-[21px]">Pack</h2>
        <ul class="lay">
          {#each pack as text (text)}<li>{text}</li>{/each}
        </ul>
        {#each inTurn as j, i (j.machine_id + j.title)}
          <h2 class="head-voice mt-5 text-[21px]">{j.machine_name}</h2>
          <p>{j.title}. Begin at {clock(j.begin_at, w.zone)}, done at {clock(j.end_at, w.zone)}.</p>
          <div class="act">
            {#if j.descale}
              <a
                class="btn btn-outline btn-primary"
                href={p('/machines/:id/descale', { params: { id: j.machine_id } })}>See the descale card</a
              >
            {:else}
              <StartWash
                machine={j.machine_id}
                parts={j.tasks[0]!.parts}
                task={j.tasks[0]!.task as Schemas['NewRun']['task']}
                more={j.tasks.length > 1 ? { with: j.tasks.slice(1) } : {}}
                text="Start this run"
                line={i > 0}
              />
            {/if}
          </div>
        {/each}
        {#if w.left_out.length > 0}
          <h2 class="label-voice mt-5">Due, and not in it</h2>
          <ul>
            {#each w.left_out as x (x.machine_id + x.what)}<li class="py-1">
                <a class="underline underline-offset-4" href={p('/machines/:id', { params: { id: x.machine_id } })}
                  >{x.machine_name}</a
                >: {x.what}. {x.why}
              </li>{/each}
          </ul>
        {/if}
      </aside>
    </div>
  </PaperSheet>
{/if}

<style>
  .whose label {
    display: flex;
    gap: 10px;
    align-items: center;
    min-height: 44px;
  }
  .visits > li {
    display: grid;
    grid-template-columns: 90px minmax(0, 1fr);
    gap: 2px 16px;
    padding: 10px 0;
    border-bottom: 1px solid var(--color-rule);
    break-inside: avoid;
  }
  @media print {
    .whose {
      display: none;
    }
  }
</style>
