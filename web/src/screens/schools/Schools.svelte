<!-- How often, and how: every school on the ruler of this machine's own use. -->
<script lang="ts">
  import { ask, client, newId, type Schemas } from '../../data/api'
  import { Resource } from '../../data/resource.svelte'
  import Fold from '../../ui/Fold.svelte'
  import { every, figure, plainly, short, weekday } from '../../ui/format'
  import IntervalHistory from './IntervalHistory.svelte'
  import Lesson from '../shared/Lesson.svelte'
  import Num from '../../ui/Num.svelte'
  import Pairing from './Pairing.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { p, route } from '../../router'
  import RulerRows from './RulerRows.svelte'
  import Methods from './Methods.svelte'
  import Weigh from './Weigh.svelte'
  import WeekRhythm from './WeekRhythm.svelte'

  const page = new Resource<Schemas['Schools']>()
  const schools = $derived(page.value)
  const id = $derived((route.params as { id?: string }).id ?? '')
  const path = $derived({ params: { path: { machine_id: id } } })

  async function attempt(call: () => Promise<Schemas['Schools']>) {
    const got = await page.ask(call)
    if (got) document.title = `Schools, ${got.machine_name} · Fresh Anvil`
  }
  $effect(() => {
    void id
    void attempt(() => ask(client.GET('/machines/{machine_id}/schools', path)))
  })
  const choose = (school: string) =>
    attempt(() =>
      ask(
        client.POST('/machines/{machine_id}/schools', {
          ...path,
          body: { id: newId(), school: school as Schemas['SchoolChoice']['school'] },
        }),
      ),
    )
  const water = (value: string) =>
    attempt(async () => {
      await ask(
        client.POST('/machines/{machine_id}/facts', {
          ...path,
          body: { version: schools!.version, facts: [{ key: 'water_backflush', value }] },
        }),
      )
      return ask(client.GET('/machines/{machine_id}/schools', path))
    })
  const change = (kind: Schemas['IntervalChange']['kind']) =>
    attempt(() =>
      ask(client.POST('/machines/{machine_id}/interval-changes', { ...path, body: { id: newId(), kind } })),
    )
  const what: Record<Schemas['ChangeShown']['what'], string> = {
    begun: 'from the beginning',
    chosen: 'chosen',
    learned: 'learned',
    oily: 'shortened',
    party: 'shortened',
    undone: 'taken back',
  }
</script>

{#if page.problem}<div class="px-8"><ProblemNote problem={page.problem} /></div>{/if}
{#if schools}
  {@const s = schools}
  {@const now = s.current}
  <div class="px-5 pt-6 pb-16 md:px-8">
    <div>
      <div class="label-voice">
        <a class="underline underline-offset-4" href={p('/machines/:id', { params: { id: s.machine_id } })}
          >{s.machine_name}</a
        >, how often and how
      </div>
      <h1 class="huge-voice mt-2 text-[clamp(44px,6vw,84px)]">
        {now.interval.daily
          ? 'Every day'
          : now.days
            ? 'Every '
            : now.title}{#if !now.interval.daily && now.days}<Num
            worked={now.days}
            text="{short(now.days.value)} days"
          />{/if}
      </h1>
      <p class="head-voice mt-3 text-[26px]">{now.title}: {every(now.interval)}</p>
      <p class="mt-1 text-[18px]">
        {#if now.method_name}{now.method_name}: {now.pattern}.{/if}
        {#if now.times}<Num worked={now.times} text="{plainly(now.times)} times" /> a year{s.groups > 1
            ? ', all groups'
            : ''}.{/if}
      </p>
      {#each now.interval.because as r}<p class="mt-1 max-w-3xl">{r.text}</p>{/each}
      {#if now.fits.verdict === 'look'}<p class="caution mt-2">
          {#each now.fits.because as r}{r.text}
          {/each}
        </p>{/if}
      {#if !now.interval.daily && !s.by_hand}
        <div class="for-keeper mt-4 flex flex-wrap items-center gap-3">
          <span class="label-voice">This interval only</span>
          <button type="button" class="btn btn-outline btn-primary" onclick={() => change('oily')}
            >Oily beans</button
          >
          <button type="button" class="btn btn-outline btn-primary" onclick={() => change('party')}>A party</button>
        </div>
      {/if}
    </div>

    {#if s.by_hand}<p class="caution mt-5"><b>{s.gate.title}.</b> {s.gate.because[0]?.text}</p>{/if}
    {#snippet weighed()}
      <Weigh
        rows={s.schools.some((r) => r.chosen) ? s.schools : [...s.schools, { ...now, chosen: true }]}
        onchoose={choose}
      />
    {/snippet}
    {#if !s.by_hand}<div class="mt-5">{@render weighed()}</div>{/if}
    {#if !s.by_hand}
      <div class="mt-5">
        <Lesson machine={s.machine_id} lesson={s.lesson} onchanged={(next) => (page.value = next)} />
      </div>
    {/if}

    <div class="mt-6">
      {#if s.by_hand}<Fold title="How often, weighed" note="least work to cleanest">{@render weighed()}</Fold>{/if}
      <Fold title={s.by_hand ? 'By hand: how often' : 'The schools side by side'} note="a year of this machine each"
        ><RulerRows rows={s.schools} onchoose={choose} /></Fold
      >
      <Fold title={s.by_hand ? 'Own numbers' : 'Another pairing'} note="your own method, your own interval"
        ><Pairing schools={s} onchosen={(next) => (page.value = next)} /></Fold
      >
      {#if s.water.length > 0}<Fold title="Water only, in between" note={s.water.find((r) => r.chosen)?.title ?? ''}
          ><RulerRows rows={s.water} onchoose={water} /></Fold
        >{/if}
      <Fold title="Shots a group, as learned" note="{figure(s.rate.value)} a day"
        ><p class="num-voice text-[26px]"><Num worked={s.rate} text="{figure(s.rate.value)} a day" /></p>
        <div class="mt-2 max-w-sm"><WeekRhythm days={s.by_day} /></div></Fold
      >
      <Fold title="How it went so far" note="{s.changes.length} {s.changes.length === 1 ? 'change' : 'changes'}">
        <IntervalHistory schools={s} />
        <ul class="border-ink mt-4 border-t-2">
          {#each [...s.changes].reverse() as c (c.id)}
            <li class="change">
              <span class="num-voice">{weekday(c.at, s.zone)}</span>
              <span class:line-through={c.taken_back}
                ><b>{c.title}</b>, {what[c.what]}{#if c.interval}: {every(
                    c.interval,
                  )}{/if}{#if c.what === 'learned'}. {c.why}{/if}</span
              >
              {#if c.newest}<button type="button" class="for-keeper linked text-act" onclick={() => change('undo')}
                  >undo</button
                >{/if}
            </li>
          {/each}
        </ul>
      </Fold>
      {#if !s.by_hand}<Fold title="The methods" note="{s.methods.length} ways, each to practise"
          ><Methods schools={s} /></Fold
        >{/if}
    </div>
  </div>
{/if}

<style>
  .change {
    display: grid;
    grid-template-columns: 130px 1fr 90px;
    gap: 4px 16px;
    align-items: baseline;
    padding: 8px 0;
    border-bottom: 1px solid var(--color-rule);
  }
  @media (max-width: 1000px) {
    .change {
      grid-template-columns: 1fr auto;
    }
    .change > :nth-child(2) {
      grid-column: 1 / -1;
      grid-row: 2;
    }
  }
</style>
