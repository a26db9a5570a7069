<!-- The five answers, with what they come to beside them. -->
<script lang="ts">
  import { untrack } from 'svelte'
  import { ask, client, newId, problemOf, type MachinePlan, type Problem, type Schemas } from '../../data/api'
  import { dayStart, during, groupParts, hardnessUnits as units, theMachine, treatments } from '../../ui/format'
  import PlanTicket from '../shared/PlanTicket.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { navigate, route } from '../../router'
  import { prefs } from '../../data/state.svelte'

  type Layout = Schemas['Answers']['layout']
  type Unit = NonNullable<Schemas['HardnessAnswer']['unit']>
  const layouts: { id: Layout; title: string; sign: string }[] = [
    { id: 'thermoblock', title: 'Thermoblock or coil', sign: 'hot in a minute; brews or steams' },
    { id: 'single_boiler', title: 'Single boiler', sign: 'one boiler; wait between brew and steam' },
    { id: 'hx_home', title: 'Heat exchanger, home', sign: 'brews and steams at once, one gauge for steam' },
    { id: 'dual_home', title: 'Dual boiler, home', sign: 'two boilers, two temperatures' },
    { id: 'lever_cam', title: 'Lever with a cam valve', sign: 'a small lever starts the water' },
    { id: 'lever_manual', title: 'Spring or manual lever', sign: 'your arm or a spring presses' },
    { id: 'hx_cafe', title: 'Heat exchanger, café', sign: 'two groups or more, on the mains' },
    { id: 'multi_cafe', title: 'Multi boiler, café', sign: 'a boiler a group, on the mains' },
  ]
  const valves = [
    { id: 'yes', text: 'Yes' },
    { id: 'no', text: 'No' },
    { id: 'cannot_tell', text: "Can't tell" },
  ] as const
  const machineId = $derived((route.params as { id?: string }).id)
  const id = newId() // pressing Keep twice keeps one machine
  let name = $state('')
  let layout = $state<Layout>()
  let valve = $state<Schemas['Answers']['valve']>()
  let drinks = $state<number | null>(null)
  let milk = $state<number | null>(null)
  let known = $state<boolean>()
  let hardness = $state<number | null>(null)
  let unit = $state<Unit>(prefs.hardness)
  let treatment = $state<Schemas['Answers']['treatment']>()
  let version = $state(1)
  let since = $state('') // of a correction: it was like that from this day on
  // what was done before it came; an empty day is one that nobody knows
  let isNew = $state<boolean>()
  let washed = $state('')
  let descaled = $state('')
  let changed = $state('')

  let plan = $state<MachinePlan>()
  let problem = $state<Problem>()
  let kept = $state<Problem>()
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC'

  const answers = $derived.by((): Schemas['Answers'] | undefined => {
    const v = layout === 'lever_manual' ? 'no' : valve
    if (!layout || !v || drinks === null || milk === null || known === undefined || !treatment) return undefined
    if (known && hardness === null) return undefined
    return {
      layout,
      valve: v,
      drinks_per_day: drinks,
      milk_drinks_per_day: milk,
      hardness: known ? { known, value: hardness ?? 0, unit } : { known },
      treatment,
    }
  })
  const renews = $derived(plan?.renews)
  const missing = $derived(
    [
      !layout && 'how it is built',
      layout !== 'lever_manual' && !valve && 'the valve',
      drinks === null && 'drinks a day',
      milk === null && 'milk drinks a day',
      (known === undefined || (known && hardness === null)) && 'the hardness',
      !treatment && 'what treats the water',
    ].filter((m) => m !== false),
  )

  $effect(() => {
    document.title = 'Five answers · Fresh Anvil'
    const of = machineId
    if (of) untrack(() => void load(of))
  })
  async function load(of: string) {
    try {
      const m = await ask(client.GET('/machines/{machine_id}', { params: { path: { machine_id: of } } }))
      name = m.name
      version = m.version
      layout = m.answers.layout
      valve = m.answers.valve
      drinks = m.answers.drinks_per_day
      milk = m.answers.milk_drinks_per_day
      known = m.answers.hardness.known
      hardness = m.answers.hardness.value ?? null
      unit = m.answers.hardness.unit ?? 'dh'
      treatment = m.answers.treatment
    } catch (error) {
      problem = problemOf(error)
    }
  }

  let asked = 0
  $effect(() => {
    const body = answers
    if (!body) return
    const mine = ++asked
    const wait = setTimeout(async () => {
      try {
        const came = await ask(client.POST('/preview', { body }))
        if (mine === asked) {
          plan = came
          problem = undefined
        }
      } catch (error) {
        if (mine === asked) {
          plan = undefined
          problem = problemOf(error)
        }
      }
    }, 150)
    return () => clearTimeout(wait)
  })

  async function keep(event: SubmitEvent) {
    event.preventDefault()
    if (!answers) return
    try {
      if (machineId) {
        await ask(client.POST('/machines/{machine_id}/answers', { params: { path: { machine_id: machineId } }, body: { version, ...(since && { since: dayStart(since) }), answers } }))
        await navigate('/machines/:id', { params: { id: machineId } })
      } else {
        const title = name.trim() || layouts.find((l) => l.id === layout)?.title || 'Machine'
        await ask(client.POST('/machines', { body: { id, name: title, zone, answers, ...(isNew && { new_since: new Date().toISOString() }), ...(isNew === false && { before: before() }) } }))
        await navigate('/')
      }
    } catch (error) {
      kept = problemOf(error)
    }
  }
  /** What somebody knows of what was done before. */
  function before(): Schemas['NewMachine']['before'] {
    const list: NonNullable<Schemas['NewMachine']['before']> = []
    if (washed) for (const part of groupParts(plan?.groups ?? 1)) list.push({ task: 'wash', part, at: during(washed) })
    if (descaled) list.push({ task: 'descale', part: theMachine, at: during(descaled) })
    if (changed && renews) list.push({ task: renews, part: theMachine, at: during(changed) })
    return list
  }
  /** The problem that belongs to a field, if one does. */
  const at = (field: string) => (problem?.field?.replace(/^answers\./, '').startsWith(field) ? `You gave ${problem.value}. Allowed: ${problem.allowed}.` : '')
</script>

<form class="sheet" onsubmit={keep} novalidate>
  <div class="questions">
    <h1 class="huge-voice text-[clamp(40px,5vw,64px)]">Five answers</h1>

    <fieldset>
      <legend><span class="no">1</span> How is it built?</legend>
      <div class="keys two">
        {#each layouts as l (l.id)}
          <label class="key"><input class="sr-only" type="radio" name="layout" value={l.id} bind:group={layout} /><b>{l.title}</b><span>{l.sign}</span></label>
        {/each}
      </div>
      {#if layout !== 'lever_manual'}
        <p class="mt-4"><b>Has it a three-way valve?</b> Listen: a hiss and a gush into the tray when the pump stops.</p>
        <div class="keys valve mt-2">
          {#each valves as v (v.id)}
            <label class="key"><input class="sr-only" type="radio" name="valve" value={v.id} bind:group={valve} /><b>{v.text}</b></label>
          {/each}
        </div>
        {#if valve === 'cannot_tell'}<p class="mt-2 text-[15px]">That counts as no until you know. Pull a shot and stop the pump: a hiss, a gush and a fairly dry puck mean yes; silence and a soupy puck mean no.</p>{/if}
      {/if}
      {#if at('valve') || at('layout')}<p class="caution mt-2" role="alert">{at('valve') || at('layout')}</p>{/if}
    </fieldset>

    <fieldset>
      <legend><span class="no">2</span> Drinks a day, in all?</legend>
      <input class="big" type="number" inputmode="decimal" min="0" max="2000" step="any" bind:value={drinks} aria-label="Drinks a day" />
      {#if at('drinks_per_day')}<p class="caution mt-2" role="alert">{at('drinks_per_day')}</p>{/if}
    </fieldset>

    <fieldset>
      <legend><span class="no">3</span> How many of them with milk?</legend>
      <input class="big" type="number" inputmode="decimal" min="0" max="2000" step="any" bind:value={milk} aria-label="Milk drinks a day" />
      {#if at('milk_drinks_per_day')}<p class="caution mt-2" role="alert">{at('milk_drinks_per_day')}</p>{/if}
    </fieldset>

    <fieldset>
      <legend><span class="no">4</span> How hard is the water?</legend>
      <div class="keys two">
        <label class="key"><input class="sr-only" type="radio" name="known" value={true} bind:group={known} /><b>I have a reading</b></label>
        <label class="key"><input class="sr-only" type="radio" name="known" value={false} bind:group={known} /><b>I don't know</b></label>
      </div>
      {#if known}
        <div class="mt-3 flex flex-wrap items-end gap-3">
          <input class="big" type="number" inputmode="decimal" min="0" step="any" bind:value={hardness} aria-label="Hardness" />
          <select class="select border-ink h-[74px] w-auto text-[18px]" bind:value={unit} aria-label="Unit of hardness">
            {#each units as u (u.id)}<option value={u.id}>{u.text}</option>{/each}
          </select>
        </div>
      {/if}
      {#if at('hardness')}<p class="caution mt-2" role="alert">{at('hardness')}</p>{/if}
    </fieldset>

    <fieldset>
      <legend><span class="no">5</span> What treats the water?</legend>
      <div class="keys three">
        {#each Object.entries(treatments) as [id, text] (id)}
          <label class="key"><input class="sr-only" type="radio" name="treatment" value={id} bind:group={treatment} /><b>{text}</b></label>
        {/each}
      </div>
      {#if at('treatment')}<p class="caution mt-2" role="alert">{at('treatment')}</p>{/if}
    </fieldset>

    {#if !machineId}
      <section class="more" role="group" aria-labelledby="before">
        <h2 id="before">What was done before? <span class="label-voice">(may stay open)</span></h2>
        <div class="keys two">
          <label class="key"><input class="sr-only" type="radio" name="new" value={true} bind:group={isNew} /><b>It is new</b><span>every clock counts from today</span></label>
          <label class="key"><input class="sr-only" type="radio" name="new" value={false} bind:group={isNew} /><b>It was used before</b><span>say what you know</span></label>
        </div>
        {#if isNew === false}
          <div class="mt-3 grid gap-2">
            <label class="about"><span>Last washed about</span> <input type="date" bind:value={washed} /></label>
            <label class="about"><span>Last descaled about</span> <input type="date" bind:value={descaled} /></label>
            {#if renews}<label class="about"><span>{renews === 'regenerate' ? 'Softener regenerated about' : 'Filter changed about'}</span> <input type="date" bind:value={changed} /></label>{/if}
            <p class="text-[15px]">Leave a day empty if you don't know: then it counts as due now.</p>
          </div>
        {/if}
      </section>
      <label class="mt-7 block"><span class="label-voice">What do you call it? (may stay empty)</span><input class="name" maxlength="80" bind:value={name} /></label>
    {:else}
      <section class="more" role="group" aria-labelledby="since">
        <h2 id="since">From when on?</h2>
        <label class="about"><span>It was like that since</span> <input type="date" bind:value={since} /></label>
        <p class="mt-2 text-[15px]">{since ? 'That corrects the past: from that day on it is worked out anew.' : 'Left empty, the answers hold from now on, and what was before stays as it was.'}</p>
      </section>
    {/if}
  </div>

  <aside class="ticket">
    {#if answers && plan}
      <PlanTicket {plan} {zone} fresh />
    {:else if problem}
      <ProblemNote {problem} />
    {:else}
      <div class="label-voice">Still to answer</div>
      <ul class="head-voice mt-2 text-[28px]">
        {#each missing as m (m)}<li>{m}</li>{/each}
      </ul>
    {/if}
    {#if kept}<ProblemNote problem={kept} />{/if}
    <div class="keep"><button class="btn btn-primary w-full" disabled={!answers || !plan}>{machineId ? 'Save these answers' : 'Save this machine'}</button></div>
  </aside>
</form>

<style>
  .sheet {
    display: grid;
    grid-template-columns: 1fr 470px;
    flex-grow: 1;
  }
  .questions {
    padding: 28px 40px 60px 32px;
    max-width: 860px;
  }
  .ticket {
    background: var(--color-slip);
    border-left: 2px dashed var(--color-rule);
    padding: 28px 32px 0;
    display: flex;
    flex-direction: column;
  }
  .keep {
    position: sticky;
    bottom: 0;
    margin: auto -32px 0;
    padding: 16px 32px 20px;
    background: var(--color-slip);
  }
  .more {
    margin-top: 30px;
    border-top: 2px solid var(--color-ink);
    padding-top: 12px;
  }
  .more h2 {
    margin-bottom: 12px;
    font-stretch: 70%;
    font-weight: 700;
    font-size: 28px;
    line-height: 1.05;
  }
  fieldset {
    margin-top: 30px;
    border-top: 2px solid var(--color-ink);
    padding-top: 12px;
  }
  legend {
    float: left;
    width: 100%;
    margin-bottom: 12px;
    font-stretch: 70%;
    font-weight: 700;
    font-size: 28px;
    line-height: 1.05;
  }
  legend ~ * {
    clear: both;
  }
  .no {
    display: inline-block;
    min-width: 1.2em;
  }
  .keys {
    display: grid;
    gap: 0;
    padding-left: 1.5px;
  }
  .keys.two {
    grid-template-columns: 1fr 1fr;
  }
  .keys.valve {
    grid-template-columns: repeat(3, 1fr);
  }
  .keys.three {
    grid-template-columns: repeat(auto-fit, minmax(150px, 1fr));
  }
  .key {
    display: flex;
    flex-direction: column;
    justify-content: center;
    min-height: 54px;
    padding: 8px 14px;
    border: 1.5px solid var(--color-ink);
    margin: -0.75px -0.75px;
    cursor: pointer;
    background: var(--color-slip);
  }
  .key b {
    font-stretch: 78%;
    font-size: 18px;
  }
  .key span {
    font-size: 14px;
    font-stretch: 85%;
    color: var(--color-ink-2);
    line-height: 1.25;
  }
  .key:has(input:checked) {
    background: var(--color-ink);
    color: var(--color-paper);
  }
  .key:has(input:checked) span {
    color: inherit;
  }
  .key:has(input:focus-visible) {
    outline: 3px solid var(--color-act);
    outline-offset: 2px;
    z-index: 1;
  }
  .about {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 4px 14px;
  }
  .about span {
    min-width: 220px;
    font-weight: 600;
  }
  .about input {
    min-height: 48px;
    border: 1.5px solid var(--color-ink);
    padding: 0 12px;
    background: var(--color-slip);
  }
  .big,
  .name {
    background: var(--color-slip);
    border: 1.5px solid var(--color-ink);
    padding: 6px 14px;
  }
  .big {
    width: 200px;
    height: 74px;
    font-size: 44px;
    font-stretch: 66%;
    font-weight: 800;
  }
  .name {
    display: block;
    width: 100%;
    height: 52px;
    margin-top: 4px;
    font-size: 20px;
  }
  @media (max-width: 1000px) {
    .sheet {
      grid-template-columns: 1fr;
    }
    .questions {
      padding: 20px 20px 30px;
    }
    .ticket {
      border-left: 0;
      border-top: 2px dashed var(--color-rule);
      padding: 20px 20px 0;
    }
    .keep {
      margin: 20px -20px 0;
      padding: 14px 20px;
    }
  }
</style>
