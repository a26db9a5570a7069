<!-- How often, and how: every school on the ruler of this machine's own use. -->
<script lang="ts">
  import { ask, client, newId, problemOf, type Problem, type Schemas } from '../../data/api'
  import { every, figure, groupParts, plainly, residue, round, short, weekday, worked } from '../../ui/format'
  import IntervalHistory from './IntervalHistory.svelte'
  import Lesson from '../shared/Lesson.svelte'
  import Num from '../../ui/Num.svelte'
  import Pairing from './Pairing.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { p, route } from '../../router'
  import RulerRows from './RulerRows.svelte'
  import StartWash from '../shared/StartWash.svelte'
  import WeekRhythm from './WeekRhythm.svelte'

  let schools = $state<Schemas['Schools']>()
  let problem = $state<Problem>()
  const id = $derived((route.params as { id?: string }).id ?? '')
  const path = $derived({ params: { path: { machine_id: id } } })

  async function attempt(call: () => Promise<Schemas['Schools']>) {
    try {
      schools = await call()
      document.title = `Schools, ${schools.machine_name} · Fresh Anvil`
      problem = undefined
    } catch (error) {
      problem = problemOf(error)
    }
  }
  $effect(() => {
    void id
    void attempt(() => ask(client.GET('/machines/{machine_id}/schools', path)))
  })
  const choose = (school: string) => attempt(() => ask(client.POST('/machines/{machine_id}/schools', { ...path, body: { id: newId(), school: school as Schemas['SchoolChoice']['school'] } })))
  const water = (value: string) =>
    attempt(async () => {
      await ask(client.POST('/machines/{machine_id}/facts', { ...path, body: { version: schools!.version, facts: [{ key: 'water_backflush', value }] } }))
      return ask(client.GET('/machines/{machine_id}/schools', path))
    })
  const change = (kind: Schemas['IntervalChange']['kind']) => attempt(() => ask(client.POST('/machines/{machine_id}/interval-changes', { ...path, body: { id: newId(), kind } })))
  const what: Record<Schemas['ChangeShown']['what'], string> = { begun: 'from the beginning', chosen: 'chosen', learned: 'learned', oily: 'shortened', party: 'shortened', undone: 'taken back' }
</script>

{#if problem}<div class="px-8"><ProblemNote {problem} /></div>{/if}
{#if schools}
  {@const s = schools}
  {@const now = s.current}
  <div class="px-5 pt-6 pb-16 md:px-8">
    <div class="top">
      <div>
        <div class="label-voice"><a class="underline underline-offset-4" href={p('/machines/:id', { params: { id: s.machine_id } })}>{s.machine_name}</a>, how often and how</div>
        <h1 class="huge-voice mt-2 text-[clamp(44px,6vw,84px)]">{now.interval.daily ? 'Every day' : now.days ? 'Every ' : now.title}{#if !now.interval.daily && now.days}<Num worked={now.days} text="{short(now.days.value)} days" />{/if}</h1>
        <p class="head-voice mt-3 text-[26px]">{now.title}: {every(now.interval)}</p>
        <p class="mt-1 text-[18px]">{#if now.method_name}{now.method_name}: {now.pattern}.{/if}
          {#if now.times}<Num worked={now.times} text="{plainly(now.times)} times" /> a year{s.groups > 1 ? ', all groups' : ''}.{/if}</p>
        {#each now.interval.because as r}<p class="mt-1 max-w-3xl">{r.text}</p>{/each}
        {#if now.fits.verdict === 'look'}<p class="caution mt-2">{#each now.fits.because as r}{r.text} {/each}</p>{/if}
        {#if !now.interval.daily && !s.by_hand}
          <div class="mt-4 flex flex-wrap items-center gap-3">
            <span class="label-voice">This interval only</span>
            <button type="button" class="btn btn-outline btn-primary" onclick={() => change('oily')}>Oily beans</button>
            <button type="button" class="btn btn-outline btn-primary" onclick={() => change('party')}>A party</button>
          </div>
        {/if}
      </div>
      <aside>
        <div class="label-voice">Shots a group, as learned</div>
        <p class="num-voice text-[26px]"><Num worked={s.rate} text="{figure(s.rate.value)} a day" /></p>
        <div class="mt-2"><WeekRhythm days={s.by_day} /></div>
      </aside>
    </div>

    {#if !s.by_hand}
      <div class="mt-6">
        <Lesson machine={s.machine_id} lesson={s.lesson} onchanged={(next) => (schools = next)} />
      </div>
    {/if}

    <section class="mt-9">
      <h2 class="head-voice text-[28px]">{s.by_hand ? 'By hand: how often' : 'The schools, a year of this machine each'}</h2>
      {#if s.by_hand}<p class="caution mt-2"><b>{s.gate.title}.</b> {s.gate.because[0]?.text}</p>{/if}
      <RulerRows rows={s.schools} onchoose={choose} />
    </section>

    <section class="mt-10">
      <h2 class="head-voice mb-3 text-[28px]">{s.by_hand ? 'Own numbers' : 'Another pairing'}</h2>
      <Pairing schools={s} onchosen={(next) => (schools = next)} />
    </section>

    {#if s.water.length > 0}
      <section class="mt-10">
        <h2 class="head-voice mb-3 text-[28px]">Water only, in between</h2>
        <RulerRows rows={s.water} onchoose={water} />
      </section>
    {/if}

    <section class="mt-10">
      <h2 class="head-voice mb-3 text-[28px]">How it went so far</h2>
      <IntervalHistory schools={s} />
      <ul class="border-ink mt-4 border-t-2">
        {#each [...s.changes].reverse() as c (c.id)}
          <li class="change">
            <span class="num-voice">{weekday(c.at, s.zone)}</span>
            <span class:line-through={c.taken_back}><b>{c.title}</b>, {what[c.what]}{#if c.interval}: {every(c.interval)}{/if}{#if c.what === 'learned'}. {c.why}{/if}</span>
            {#if c.newest}<button type="button" class="text-act min-h-11 cursor-pointer underline underline-offset-4" onclick={() => change('undo')}>undo</button>{/if}
          </li>
        {/each}
      </ul>
    </section>

    {#if !s.by_hand}
      <section class="mt-10">
        <h2 class="head-voice mb-3 text-[28px]">The methods</h2>
        <ul class="border-ink border-t-2">
          {#each s.methods as m (m.id)}
            <li class="method">
              <div><b class="num-voice text-[20px]">{m.name}</b><div class="text-[15px]">{m.pattern}</div></div>
              <div class="text-[15px]">{m.why} {#if m.ours}<span class="label-voice">Our own choice: {m.ours}</span>{/if}{#if m.fits.verdict === 'refused'} <b class="text-stop">{m.fits.title}.</b>{/if}</div>
              <div class="text-right text-[16px]">
                {#if m.wash}
                  {#if m.wash.dose}<Num worked={m.wash.dose.mass} text={worked(m.wash.dose.mass)} />,{/if}
                  <Num worked={m.wash.minutes} text="{plainly(m.wash.minutes)} min" />
                  {#if m.fits.verdict !== 'refused'}<div class="try"><StartWash machine={s.machine_id} parts={groupParts(s.groups)} method={m.id as Schemas['NewRun']['method']} text="Practise" practice line /></div>{/if}
                  {#if m.wash.residue}<div><Num worked={m.wash.rinse} text="{round(m.wash.rinse.value)} of water" /> leave <Num worked={m.wash.residue} text={residue(m.wash.residue)} /></div>{/if}
                {/if}
              </div>
            </li>
          {/each}
        </ul>
      </section>
    {/if}
  </div>
{/if}

<style>
  .top {
    display: grid;
    grid-template-columns: 1fr 330px;
    gap: 24px 48px;
  }
  aside {
    border-left: 2px dashed var(--color-rule);
    padding-left: 28px;
  }
  .change {
    display: grid;
    grid-template-columns: 130px 1fr 90px;
    gap: 4px 16px;
    align-items: baseline;
    padding: 8px 0;
    border-bottom: 1px solid var(--color-rule);
  }
  .try :global(.btn) {
    min-height: 44px;
    padding: 4px 14px;
    font-size: 15px;
    margin: 4px 0;
  }
  .method {
    display: grid;
    grid-template-columns: 300px 1fr 220px;
    gap: 6px 28px;
    padding: 10px 0;
    border-bottom: 1px solid var(--color-rule);
  }
  @media (max-width: 1000px) {
    .top {
      grid-template-columns: 1fr;
    }
    aside {
      border-left: 0;
      border-top: 2px dashed var(--color-rule);
      padding: 14px 0 0;
    }
    .change {
      grid-template-columns: 1fr auto;
    }
    .change > :nth-child(2) {
      grid-column: 1 / -1;
      grid-row: 2;
    }
    .method {
      grid-template-columns: 1fr;
    }
    .method > :last-child {
      text-align: left;
    }
  }
</style>
