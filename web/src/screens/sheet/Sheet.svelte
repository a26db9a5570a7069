<!-- A sitting before it is begun: in time, on lanes, with what to lay out and what to do at which clock time. It
     prints. -->
<script lang="ts">
  import { flushSync } from 'svelte'
  import { MediaQuery } from 'svelte/reactivity'
  import { ask, client, type Schemas } from '../../data/api'
  import { Resource } from '../../data/resource.svelte'
  import Cautions from '../../ui/Cautions.svelte'
  import { clock, inHours, stamp } from '../../ui/format'
  import Lanes from '../../ui/Lanes.svelte'
  import Num from '../../ui/Num.svelte'
  import PaperSheet from '../../ui/PaperSheet.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { p, route } from '../../router'
  import StartWash from '../shared/StartWash.svelte'

  const page = new Resource<Schemas['WorkSheet']>()
  const sheet = $derived(page.value)
  let begin = $state('')
  let cold = $state<boolean>() // it has been off overnight; as is usual there, until somebody says
  let order = $state<string[]>([]) // as somebody moved it; empty for the shortest
  const id = $derived((route.params as { id?: string }).id ?? '')

  async function load(of: string, at: string, turns: string[], off: boolean | undefined) {
    const query = {
      ...(at && { begin: at }),
      ...(turns.length > 0 && { order: turns }),
      ...(off !== undefined && { cold: off }),
    }
    const params = { path: { machine_id: of }, query }
    const got = await page.ask((signal) => ask(client.GET('/machines/{machine_id}/sitting', { params, signal })))
    if (got) document.title = `Work sheet, ${got.machine_name} · Fresh Anvil`
    return got !== undefined
  }
  $effect(() => void load(id, begin, order, cold))
  let moving = $state(false) // a refusal is of the order that was tried
  async function move(at: number, by: number) {
    const turns = sheet!.turns.map((t) => t.name)
    turns.splice(at + by, 0, ...turns.splice(at, 1))
    moving = true
    if (!(await load(id, begin, turns, cold))) return
    moving = false
    order = turns
  }
  // on a phone a step is its time and its head, until it is pressed; on paper everything stands there
  const phone = new MediaQuery('max-width: 700px')
  let printing = $state(false)
  const works = { hands: 'your hands', pump: 'the pump, your hand on the switch', stands: 'stands by itself' }
  const spell = (minutes: number) => inHours(Math.round(minutes) * 60)
</script>

{#snippet told(step: Schemas['SheetStep'])}
  {#if step.work !== 'hands'}<p class="label-voice">{works[step.work]}</p>{/if}
  {#each step.do as text, n (n)}<p>{text}</p>{/each}
  {#each step.ways as text (text)}<p><span class="box"></span>{text}</p>{/each}
{/snippet}
<svelte:window onbeforeprint={() => flushSync(() => (printing = true))} onafterprint={() => (printing = false)} />
{#if page.problem && !moving}<div class="m-4 sm:m-8">
    <ProblemNote problem={page.problem} />
    <p class="mt-4">
      <a class="underline underline-offset-4" href={p('/machines/:id', { params: { id } })}>To the machine</a>
    </p>
  </div>{/if}
{#if sheet}
  {@const s = sheet}
  <PaperSheet>
    <p class="label-voice">
      <a class="underline underline-offset-4" href={p('/machines/:id', { params: { id } })}>{s.machine_name}</a>
    </p>
    <h1 class="huge-voice head">Done at {clock(s.end_at, s.zone)}</h1>
    <p class="say">
      {s.title}. <Num worked={s.minutes} text={spell(s.minutes.value)} />, of it <b>{spell(s.hands_min)}</b> with
      your hands; one after the other it would be <Num worked={s.alone} text={spell(s.alone.value)} />.
    </p>
    {#if s.opens}<label class="tick"
        ><input
          type="checkbox"
          checked={s.cold}
          onchange={(e) => {
            cold = e.currentTarget.checked
            order = []
          }}
        /> It has been off overnight, and is cold: nothing has to cool.</label
      >{/if}
    <div class="body">
      <div>
        <Lanes {sheet} />
        <p class="label-voice mt-2">{s.says} {s.clear}</p>
        <details class="turns">
          <summary class="linked py-2 font-semibold">In another order</summary>
          {#if moving && page.problem}<ProblemNote problem={page.problem} />
            <p class="label-voice mb-2">The order stays as it was.</p>{/if}
          <ol>
            {#each s.turns as t, i (t.name)}
              <li>
                <button
                  type="button"
                  class="arrow"
                  disabled={i === 0}
                  aria-label="{t.title}: earlier"
                  onclick={() => move(i, -1)}
                  ><svg viewBox="0 0 20 20" aria-hidden="true"><path d="M3 14l7-8 7 8" /></svg></button
                >
                <button
                  type="button"
                  class="arrow"
                  disabled={i === s.turns.length - 1}
                  aria-label="{t.title}: later"
                  onclick={() => move(i, 1)}
                  ><svg viewBox="0 0 20 20" aria-hidden="true"><path d="M3 6l7 8 7-8" /></svg></button
                >
                <span>{t.title}</span>
              </li>
            {/each}
          </ol>
          {#if s.moved}<button type="button" class="btn btn-outline mt-2" onclick={() => (order = [])}
              >The shortest order again</button
            >{/if}
        </details>
      </div>
      <aside>
        <label class="begin"
          ><span>Begin at</span><input type="time" bind:value={begin} aria-label="Begin at" /></label
        >
        <p class="label-voice mt-1">{stamp(s.start_at, s.zone)}</p>
        <div class="act">
          {#key s.turns.map((t) => t.name).join() + s.cold}<StartWash
              machine={id}
              parts={s.tasks[0]!.parts}
              task={s.tasks[0]!.task as Schemas['NewRun']['task']}
              more={{
                with: s.tasks.slice(1),
                ...(s.moved && { order: s.turns.map((t) => t.name) }),
                ...(s.cold && { cold: true }),
              }}
              text="Start the sitting"
            />{/key}
          <button type="button" class="btn btn-outline" onclick={() => print()}>Print</button>
        </div>
        <h2 class="label-voice mt-5">Lay out first</h2>
        <ul class="lay">
          {#each s.lay_out as text (text)}<li>{text}</li>{/each}
        </ul>
      </aside>
    </div>
    <h2 class="head-voice mt-8 text-[28px]">Step by step</h2>
    <ol class="by-step">
      {#each s.steps as step (step.id)}
        <li>
          <div>
            <b class="num-voice text-[21px]"
              >{clock(step.at, s.zone)}{step.work === 'stands' ? ` to ${clock(step.until, s.zone)}` : ''}</b
            ><span class="label-voice block">{step.task}</span>
          </div>
          {#if phone.current && !printing}
            <details>
              <summary><h3 class="head-voice text-[21px]">{step.head}</h3></summary>
              <Cautions list={step.cautions} />
              {@render told(step)}
            </details>
          {:else}
            <div>
              <Cautions list={step.cautions} />
              <h3 class="head-voice text-[21px]">{step.head}</h3>
              {@render told(step)}
            </div>
          {/if}
        </li>
      {/each}
    </ol>
    <p class="label-voice mt-4">
      The times are for hands that take as long as planned; the run goes by yours. The maker's manual goes first.
    </p>
  </PaperSheet>
{/if}

<style>
  .by-step summary h3 {
    display: inline;
  }
  .by-step summary {
    min-height: 44px;
    cursor: pointer;
  }
  .turns li {
    display: flex;
    gap: 8px;
    align-items: center;
    border-bottom: 1px solid var(--color-rule);
  }
  .arrow {
    width: 44px;
    height: 44px;
    padding: 12px;
    cursor: pointer;
  }
  .arrow:disabled {
    opacity: 0.25;
    cursor: default;
  }
  .arrow path {
    fill: none;
    stroke: currentColor;
    stroke-width: 2.6;
  }
  @media print {
    .turns {
      display: none;
    }
  }
</style>
