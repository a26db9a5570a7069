<!-- From what is noticed to its cause, by the fewest looks: one question at a time, the causes at its side, each with what follows. -->
<script lang="ts">
  import { ask, client, newId, problemOf, type Problem, type Schemas } from '../../data/api'
  import Cautions from '../../ui/Cautions.svelte'
  import Lead from '../shared/Lead.svelte'
  import { groupParts, round, theMachine } from '../../ui/format'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { navigate, p, route } from '../../router'
  import StartWash from '../shared/StartWash.svelte'
  import { loadHazards, singleKeys } from '../../data/state.svelte'

  type Said = { check: string; answer: string; ask: string; text: string }
  let d = $state<Schemas['Diagnosis']>()
  let problem = $state<Problem>()
  let symptom = $state(new URLSearchParams(location.search).get('symptom') ?? '')
  let said = $state<Said[]>([])
  let kept = $state('')
  const run = new URLSearchParams(location.search).get('run') ?? '' // that somebody came from, and goes back to
  let asked = 0
  const id = $derived((route.params as { id?: string }).id ?? '')
  const finding = $derived(d?.finding)

  async function load(of: string, what: string, list: Said[]) {
    const mine = ++asked
    try {
      const query = { ...(what && { symptom: what }), ...(list.length > 0 && { said: list.map((s) => `${s.check}:${s.answer}`) }) }
      const got = await ask(client.GET('/machines/{machine_id}/diagnosis', { params: { path: { machine_id: of }, query } }))
      if (mine !== asked) return
      d = got
      document.title = `What is wrong, ${d.machine_name} · Fresh Anvil`
      problem = undefined
    } catch (error) {
      if (mine === asked) problem = problemOf(error)
    }
  }
  $effect(() => void load(id, symptom, said))
  function choose(what: string) {
    said = []
    kept = ''
    symptom = what
  }
  let which = $state<'steam' | 'pump'>('steam')
  let bar = $state('')
  let shakes = $state(false)
  let gauge = $state<Schemas['GaugeReading']>()
  let refused = $state<Problem>()
  $effect(() => {
    if (d && !d.gauges.includes(which)) which = d.gauges[0] ?? 'steam'
  })
  async function judge() {
    try {
      kept = ''
      gauge = await ask(client.GET('/machines/{machine_id}/gauge', { params: { path: { machine_id: id }, query: { which, bar: Number(bar.replace(',', '.') || 'NaN'), ...(which === 'pump' && { shakes }) } } }))
      refused = undefined
    } catch (error) {
      gauge = undefined
      refused = problemOf(error)
    }
  }
  // detergent is in the group: on record, so that nobody drinks from it, and the bench leads its rinse
  async function foams(part: string) {
    try {
      await ask(client.POST('/machines/{machine_id}/looks', { params: { path: { machine_id: id } }, body: { id: newId(), sight: 'cup', part, verdict: 'foamy', at: new Date().toISOString() } }))
      await loadHazards()
      await navigate('/')
    } catch (error) {
      problem = problemOf(error)
    }
  }
  async function keepGauge() {
    try {
      const sight = which === 'steam' ? 'steam_bar' : 'pump_bar'
      const number = shakes ? {} : { number: Number(bar.replace(',', '.')) }
      await ask(client.POST('/machines/{machine_id}/looks', { params: { path: { machine_id: id } }, body: { id: newId(), sight, part: theMachine, verdict: shakes ? 'shakes' : 'usual', at: new Date().toISOString(), ...number } }))
      kept = sight
      await loadHazards()
    } catch (error) {
      refused = problemOf(error)
    }
  }
  const say = (answer: string, text: string) => finding?.next && (said = [...said, { check: finding.next.id, answer, ask: finding.next.ask, text }])
  async function keep(cause: string) {
    try {
      await ask(client.POST('/machines/{machine_id}/diagnosis', { params: { path: { machine_id: id } }, body: { id: newId(), symptom, cause }, parseAs: 'text' }))
      kept = cause
    } catch (error) {
      problem = problemOf(error)
    }
  }
  function key(event: KeyboardEvent) {
    if (!singleKeys.on) return
    if (event.ctrlKey || event.metaKey || event.altKey || (event.target as HTMLElement).closest('input, select, textarea, dialog[open]')) return
    const n = Number(event.key)
    const a = finding?.next?.answers[n - 1]
    if (a) say(a.id, a.text)
    else if (finding?.next && event.key === '0') say('cant_tell', 'Cannot tell')
    else if (event.key === 'Backspace' && said.length > 0) said = said.slice(0, -1)
  }
  const ends = { led: 'It is led', hand: 'A hand does it', licensed: 'For a technician', normal: 'That is as it should be', stop: 'Stop' }
</script>

<svelte:window onkeydown={key} />
{#if run}
  <div class="running" role="status">
    <span><b>The run goes on meanwhile.</b> Its clock does not wait, and what is in the machine stays in.</span>
    <a class="btn btn-primary" href={p('/machines/:id/runs/:run', { params: { id, run } })}>Back to the run</a>
  </div>
{/if}
<div class="p-4 sm:p-8">
  {#if problem}<ProblemNote {problem} />{/if}
  {#if d}
    <p class="label-voice"><a class="underline underline-offset-4" href={p('/machines/:id', { params: { id } })}>{d.machine_name}</a></p>
    {#if !finding}
      <h1 class="huge-voice text-[clamp(40px,6vw,72px)]">What do you notice?</h1>
      <ul class="list">
        {#each d.symptoms as s (s.id)}<li><button type="button" class="pick" class:stop={s.stops} onclick={() => choose(s.id)}>{s.title}</button></li>{/each}
      </ul>
      {#if d.gauges.length > 0}
        <section class="mt-8 max-w-3xl">
          <h2 class="head-voice text-[28px]">Or read a gauge</h2>
          <form class="gauge" onsubmit={(e) => { e.preventDefault(); void judge() }}>
            <label>Which <select class="field" bind:value={which}>{#each d.gauges as g (g)}<option value={g}>{g === 'steam' ? 'steam boiler, hot' : 'pump, against the blind'}</option>{/each}</select></label>
            <label>Bar <input class="field" inputmode="decimal" size="5" bind:value={bar} /></label>
            {#if which === 'pump'}<label class="inline-flex items-center gap-2"><input type="checkbox" class="tick" bind:checked={shakes} /> its needle shakes</label>{/if}
            <button class="btn btn-primary">Judge it</button>
          </form>
          {#if refused}<ProblemNote problem={refused} />{/if}
          {#if gauge}
            {@const g = gauge}
            <div class="end" class:stop={g.stops} role={g.stops ? 'alert' : 'status'}>
              <h3 class="head-voice text-[28px]">{g.finding.title}</h3>
              {#each g.finding.next ?? [] as text (text)}<p><b>{text}</b></p>{/each}
              {#each g.finding.because as r (r.text)}<p>{r.text}</p>{/each}
              {#if kept === 'steam_bar' || kept === 'pump_bar'}<p role="status"><b>On record.</b></p>{:else}<button type="button" class="mr-5 min-h-11 cursor-pointer underline underline-offset-4" onclick={keepGauge}>Put it on record</button>{/if}
              {#if g.symptom}{@const what = g.symptom}<button type="button" class="min-h-11 cursor-pointer underline underline-offset-4" onclick={() => choose(what)}>Look for the cause</button>{/if}
            </div>
          {/if}
        </section>
      {/if}
    {:else}
      {@const f = finding}
      {@const first = f.causes[0]!}
      <p class="mt-1">{f.symptom.title}. <button type="button" class="min-h-11 cursor-pointer underline underline-offset-4" onclick={() => choose('')}>Something else</button></p>
      {#if f.symptom.stops}
        <div class="caution my-3 max-w-3xl" role="alert">
          <b>Switch it off and pull the plug now. Do not open it, and do not touch the relief valve.</b>
          <p>Nothing is led on it before a technician has seen it. What follows is for the talk with him.</p>
        </div>
      {/if}
      <div class="body">
        <section>
          {#if f.next}
            {@const c = f.next}
            <h1 class="head-voice ask">{c.ask}</h1>
            {#each c.how as text (text)}<p class="text-[19px]">{text}</p>{/each}
            <div class="my-2 max-w-2xl"><Cautions list={c.cautions} /></div>
            <div class="answers">
              {#each c.answers as a, n (a.id)}<button type="button" class="btn btn-primary" onclick={() => say(a.id, a.text)}><span class="opacity-70">{n + 1}</span> {a.text}</button>{/each}
              <button type="button" class="btn btn-outline" onclick={() => say('cant_tell', 'Cannot tell')}><span class="opacity-70">0</span> I cannot tell</button>
            </div>
            <p class="label-voice mt-2">About {c.minutes < 1 ? 'half a minute' : `${round(c.minutes)} min`}. It is asked since it tells most for its time.</p>
          {:else}
            <h1 class="head-voice ask">{f.sure ? first.title : 'It may be one of these'}</h1>
            {#if !f.sure}<p>No other look would tell them apart. Begin with the likeliest.</p>{/if}
            {#each f.sure ? [first] : f.causes.filter((x) => x.share >= 0.05) as cause (cause.id)}
              <article class="end" class:stop={cause.end === 'stop'}>
                <p class="label-voice">{ends[cause.end]}{f.sure ? '' : `, ${cause.words}`}</p>
                {#if !f.sure}<h2 class="head-voice text-[24px]">{cause.title}</h2>{/if}
                {#each cause.do as text (text)}<p>{text}</p>{/each}
                {#if cause.task && run}<p class="mt-2"><b>Finish the run first, or stop it. Then it is led from the machine’s page.</b></p>
                {:else if cause.task && !f.symptom.stops}
                  {#if cause.task === 'descale'}<a class="btn btn-primary mt-2" href={p('/machines/:id/descale', { params: { id } })}>See the descale card</a>
                  {:else if cause.task === 'unblock'}
                    <div class="answers">{#each groupParts(d.groups) as part (part)}<StartWash machine={id} parts={[part]} task="unblock" more={{ locked_in: true }} text="{d.groups > 1 ? `Group ${part.slice(6)}: the` : 'The'} handle is locked in" /><StartWash machine={id} parts={[part]} task="unblock" more={{ locked_in: false }} text="{d.groups > 1 ? `Group ${part.slice(6)}: the` : 'The'} handle is out" line />{/each}</div>
                  {:else if cause.task === 'rinse'}
                    <div class="answers">{#each groupParts(d.groups) as part (part)}<button type="button" class="btn btn-primary" onclick={() => foams(part)}>{d.groups > 1 ? `Group ${part.slice(6)} foams` : 'It foams'}: no drinks, rinse it</button>{/each}</div>
                  {:else if cause.whose === 'anybody'}
                    <div class="answers">{#each cause.groups ? groupParts(d.groups) : [theMachine] as part (part)}<StartWash machine={id} parts={[part]} task={cause.task as Schemas['NewRun']['task']} text="{cause.task_title}{cause.groups && d.groups > 1 ? `, group ${part.slice(6)}` : ''}: lead me" />{/each}</div>
                  {:else if cause.whose === 'entitled'}
                    {#each cause.groups ? groupParts(d.groups) : [theMachine] as part (part)}
                      {#if cause.groups && d.groups > 1}<p class="mt-2"><b>Group {part.slice(6)}</b></p>{/if}
                      <Lead machine={id} due={{ task: cause.task, whose: 'entitled' }} parts={[part]} />
                    {/each}
                  {:else}<a class="btn btn-outline btn-primary mt-2" href={p('/machines/:id', { params: { id } })}>Put it on record when it is done</a>{/if}
                {/if}
                {#if kept === cause.id}<p role="status" class="mt-2"><b>Kept:</b> it counts the next time.</p>
                {:else if !kept}<button type="button" class="mt-1 min-h-11 cursor-pointer underline underline-offset-4" onclick={() => keep(cause.id)}>That was it</button>{/if}
              </article>
            {/each}
          {/if}
          {#if said.length > 0}
            <ol class="said">{#each said as s (s.check)}<li><span>{s.ask}</span> <b>{s.text}</b></li>{/each}</ol>
            <button type="button" class="min-h-11 cursor-pointer underline underline-offset-4" onclick={() => (said = said.slice(0, -1))}>Back to the look before</button>
          {/if}
        </section>
        <aside aria-label="What it may be">
          <h2 class="label-voice">What it may be</h2>
          <ul>
            {#each f.causes as cause (cause.id)}
              <li class="cause"><span>{cause.title}</span><b>{cause.words}</b><i style:width="{Math.round(cause.share * 100)}%"></i></li>
            {/each}
          </ul>
          {#each f.because as r (r.text)}<p class="label-voice mt-2">{r.text}</p>{/each}
        </aside>
      </div>
    {/if}
  {/if}
</div>

<style>
  .running {
    position: sticky;
    top: 0;
    z-index: 1;
    display: flex;
    flex-wrap: wrap;
    gap: 8px 24px;
    align-items: center;
    justify-content: space-between;
    padding: 10px 32px;
    border-bottom: 2px solid var(--color-ink);
    background: var(--color-slip);
  }
  .list {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(min(100%, 320px), 1fr));
    gap: 10px;
    margin-top: 20px;
  }
  .pick {
    width: 100%;
    min-height: 64px;
    padding: 10px 16px;
    border: 1.5px solid var(--color-ink);
    background: var(--color-slip);
    font-size: 19px;
    font-stretch: 80%;
    font-weight: 650;
    text-align: left;
    cursor: pointer;
  }
  .pick.stop {
    border: 3px solid var(--color-stop);
  }
  .gauge {
    display: flex;
    flex-wrap: wrap;
    gap: 12px 20px;
    align-items: center;
    margin-top: 10px;
    font-weight: 600;
  }
  .gauge .field {
    height: 48px;
    margin-left: 6px;
    padding: 0 12px;
    border: 1.5px solid var(--color-ink);
    background: var(--color-slip);
  }
  .tick {
    width: 22px;
    height: 22px;
    accent-color: var(--color-act);
  }
  .body {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 340px;
    gap: 28px 48px;
    margin-top: 16px;
  }
  .ask {
    font-size: clamp(32px, 4.4vw, 54px);
  }
  .answers {
    display: flex;
    flex-wrap: wrap;
    gap: 12px;
    margin-top: 14px;
  }
  .answers :global(.btn) {
    min-height: 60px;
    font-size: 19px;
  }
  .end {
    margin-top: 14px;
    padding: 4px 0 10px 16px;
    border-left: 8px solid var(--color-act);
    font-size: 19px;
  }
  .end.stop {
    border-color: var(--color-stop);
  }
  .said {
    margin-top: 28px;
    border-top: 1px solid var(--color-rule);
  }
  .said li {
    padding: 6px 0;
    border-bottom: 1px solid var(--color-rule);
  }
  .cause {
    position: relative;
    display: flex;
    gap: 12px;
    justify-content: space-between;
    padding: 8px 0;
    border-bottom: 1px solid var(--color-rule);
  }
  .cause b {
    font-stretch: 75%;
    white-space: nowrap;
  }
  .cause i {
    position: absolute;
    bottom: -2px;
    left: 0;
    height: 4px;
    background: var(--color-ink);
  }
  @media (max-width: 900px) {
    .body {
      grid-template-columns: minmax(0, 1fr);
    }
  }
</style>
