<!-- From what is noticed to its cause, by the fewest looks: one question at a time, the causes at its side, each with
     what follows. -->
<script lang="ts">
  import { ask, client, type Schemas } from '../../data/api'
  import { Resource } from '../../data/resource.svelte'
  import Cautions from '../../ui/Cautions.svelte'
  import { round } from '../../ui/format'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { p, route } from '../../router'
  import Causes from './Causes.svelte'
  import GaugeForm from './GaugeForm.svelte'
  import { isPlain } from '../../data/state.svelte'

  type Said = { check: string; answer: string; ask: string; text: string }
  const page = new Resource<Schemas['Diagnosis']>()
  const d = $derived(page.value)
  let symptom = $state(new URLSearchParams(location.search).get('symptom') ?? '')
  let said = $state<Said[]>([])
  const run = new URLSearchParams(location.search).get('run') ?? '' // that somebody came from, and goes back to
  const id = $derived((route.params as { id?: string }).id ?? '')
  const finding = $derived(d?.finding)

  async function load(of: string, what: string, list: Said[]) {
    const query = {
      ...(what && { symptom: what }),
      ...(list.length > 0 && { said: list.map((s) => `${s.check}:${s.answer}`) }),
    }
    const got = await page.ask((signal) =>
      ask(client.GET('/machines/{machine_id}/diagnosis', { params: { path: { machine_id: of }, query }, signal })),
    )
    if (got) document.title = `What is wrong, ${got.machine_name} · Fresh Anvil`
  }
  $effect(() => void load(id, symptom, said))
  function choose(what: string) {
    said = []
    symptom = what
  }
  const say = (answer: string, text: string) =>
    finding?.next && (said = [...said, { check: finding.next.id, answer, ask: finding.next.ask, text }])
  function key(event: KeyboardEvent) {
    if (!isPlain(event)) return
    const n = Number(event.key)
    const a = finding?.next?.answers[n - 1]
    if (a) say(a.id, a.text)
    else if (finding?.next && event.key === '0') say('cant_tell', 'Cannot tell')
    else if (event.key === 'Backspace' && said.length > 0) said = said.slice(0, -1)
  }
</script>

<svelte:window onkeydown={key} />
{#if run}
  <div class="running" role="status">
    <span><b>The run goes on meanwhile.</b> Its clock does not wait, and what is in the machine stays in.</span>
    <a class="btn btn-primary" href={p('/machines/:id/runs/:run', { params: { id, run } })}>Back to the run</a>
  </div>
{/if}
<div class="p-4 sm:p-8">
  {#if page.problem}<ProblemNote problem={page.problem} />{/if}
  {#if d}
    <p class="label-voice">
      <a class="underline underline-offset-4" href={p('/machines/:id', { params: { id } })}>{d.machine_name}</a>
    </p>
    {#if !finding}
      <h1 class="huge-voice text-[clamp(40px,6vw,72px)]">What do you notice?</h1>
      <ul class="list">
        {#each d.symptoms as s (s.id)}<li>
            <button type="button" class="pick" class:stop={s.stops} onclick={() => choose(s.id)}>{s.title}</button>
          </li>{/each}
      </ul>
      {#if d.gauges.length > 0}
        <GaugeForm machine={id} gauges={d.gauges} onlook={choose} />
      {/if}
    {:else}
      {@const f = finding}
      {@const first = f.causes[0]!}
      <p class="mt-1">
        {f.symptom.title}.
        <button type="button" class="linked" onclick={() => choose('')}>Something else</button>
      </p>
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
              {#each c.answers as a, n (a.id)}<button
                  type="button"
                  class="btn btn-primary"
                  onclick={() => say(a.id, a.text)}><span class="opacity-70">{n + 1}</span> {a.text}</button
                >{/each}
              <button type="button" class="btn btn-outline" onclick={() => say('cant_tell', 'Cannot tell')}
                ><span class="opacity-70">0</span> I cannot tell</button
              >
            </div>
            <p class="label-voice mt-2">
              About {c.minutes < 1 ? 'half a minute' : `${round(c.minutes)} min`}. It is asked since it tells most
              for its time.
            </p>
          {:else}
            <h1 class="head-voice ask">{f.sure ? first.title : 'It may be one of these'}</h1>
            {#if !f.sure}<p>No other look would tell them apart. Begin with the likeliest.</p>{/if}
            <Causes {d} {f} machine={id} {run} {symptom} />
          {/if}
          {#if said.length > 0}
            <ol class="said">
              {#each said as s (s.check)}<li><span>{s.ask}</span> <b>{s.text}</b></li>{/each}
            </ol>
            <button type="button" class="linked" onclick={() => (said = said.slice(0, -1))}
              >Back to the look before</button
            >
          {/if}
        </section>
        <aside aria-label="What it may be">
          <h2 class="label-voice">What it may be</h2>
          <ul>
            {#each f.causes as cause (cause.id)}
              <li class="cause">
                <span>{cause.title}</span><b>{cause.words}</b><i style:width="{Math.round(cause.share * 100)}%"></i>
              </li>
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
    justify-items: start;
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
