<!-- Standing still: closing for weeks, the weekly visit, the return. What comes next is the biggest thing. -->
<script lang="ts">
  import { ask, client, newId, type Schemas } from '../../data/api'
  import { Resource } from '../../data/resource.svelte'
  import { day, poured, round, theMachine } from '../../ui/format'
  import Num from '../../ui/Num.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import RestStrip from './RestStrip.svelte'
  import { p, route } from '../../router'
  import StartWash from '../shared/StartWash.svelte'

  const page = new Resource<Schemas['Rest']>()
  const r = $derived(page.value)
  let from = $state('')
  let to = $state('')
  let stands = $state<'visited' | 'alone'>('visited')
  const id = $derived((route.params as { id?: string }).id ?? '')
  const preview = $derived(r?.state === 'ahead' && !r.away_id)

  async function load(of: string, query: { from?: string; to?: string; stands?: 'visited' | 'alone' } = {}) {
    const params = { path: { machine_id: of }, query }
    const got = await page.ask((signal) => ask(client.GET('/machines/{machine_id}/rest', { params, signal })))
    if (got) document.title = `Standing still, ${got.machine_name} · Fresh Anvil`
  }
  $effect(() => void load(id, from && to ? { from, to, stands } : {}))
  const keep = () =>
    page.try(async () => {
      const params = { path: { machine_id: id } }
      await ask(client.POST('/machines/{machine_id}/away', { params, body: { id: newId(), from, to, stands } }))
      from = to = ''
    })
  const forget = (away_id: string) =>
    page.change(
      () =>
        ask(
          client.DELETE('/machines/{machine_id}/away/{away_id}', { params: { path: { machine_id: id, away_id } } }),
        ),
      () => load(id),
    )
  const next = $derived(r?.visits.find((v) => !v.made && !v.missed))
  const groups = (list: string[]) => list.map((x) => x.slice(6)).join(' and ')
</script>

{#snippet column(x: Schemas['RestPlan'])}
  <section class="part">
    <p class="label-voice">{[x.on && `on ${day(x.on, r!.zone)}`, x.when].filter(Boolean).join(', ')}</p>
    <h2 class="head-voice text-[30px]">{x.title}</h2>
    <p class="num-voice text-[22px]"><Num worked={x.minutes} /></p>
    <ol>
      {#each x.steps as s (s)}<li>{s}</li>{/each}
    </ol>
    {#if x.draws}<p>
        {x.draws.draws} draws of {poured(x.draws.draw_l)} renew <Num
          worked={x.draws.renews}
          text="{round(x.draws.renews.value * 100)} %"
        /> of the steam boiler.
      </p>{/if}
    {#if x.renews && r?.flushed}<p><Num worked={r.flushed} /> through each group: what stood there is out.</p>{/if}
    {#if x.renews && r && r.opens.length > 1}<p>
        The groups are opened one after the other, so that the waste pipe takes their water: {r.opens
          .map((o) => (o.at_s === 0 ? `group ${o.group} first` : `group ${o.group} after ${round(o.at_s)} s`))
          .join(', ')}. Each runs for five minutes.
      </p>{/if}
  </section>
{/snippet}

<div class="p-4 sm:p-8">
  <ProblemNote problem={page.problem} />
  {#if r}
    <p class="label-voice">
      <a class="underline underline-offset-4" href={p('/machines/:id', { params: { id } })}>{r.machine_name}</a>
      · standing still
    </p>
    {#if r.refused}
      <h1 class="huge-voice text-[clamp(36px,5vw,60px)]">{r.refused.title}</h1>
      {#each r.refused.because as x (x.text)}<p class="mt-2 max-w-2xl">{x.text}</p>{/each}
      {#each r.refused.next ?? [] as text (text)}<p class="mt-2 max-w-2xl text-[19px]"><b>{text}</b></p>{/each}
    {:else}
      {#if r.state === 'laid_up'}
        <h1 class="huge-voice text-[clamp(40px,6vw,76px)]">
          {next ? `Visit it on ${day(next.on, r.zone)}` : r.back ? `Back on ${day(r.back, r.zone)}` : 'Laid up'}
        </h1>
        <p class="mt-2 text-[19px]">
          Laid up since {day(r.since!, r.zone)}.
          <b>Do not switch it on: its water is shut off, or its tank is empty.</b>
        </p>
      {:else if r.state === 'ahead' && !preview}
        <h1 class="huge-voice text-[clamp(40px,6vw,76px)]">
          Close it down on {day(r.plans[0]?.on ?? r.back!, r.zone)}
        </h1>
        <p class="mt-2 text-[19px]">
          After the last drink. {r.days} days, {r.visits.length === 0
            ? 'nobody comes'
            : r.visits.length === 1
              ? 'one visit'
              : `${r.visits.length} visits`}.{' '}{#if r.wash_first.length > 0}<b
              >Wash {r.groups > 1
                ? `${r.wash_first.length > 1 ? 'groups' : 'group'} ${groups(r.wash_first)}`
                : 'it'} first.</b
            >{:else if !r.close_now}It is washed first, the same evening.{/if}
        </p>
      {:else}
        <h1 class="huge-voice text-[clamp(40px,6vw,76px)]">Closed for a while?</h1>
      {/if}
      {#if r.state !== 'laid_up' && (r.state === 'in_use' || preview)}
        <form
          class="ask"
          onsubmit={(e) => {
            e.preventDefault()
            void keep()
          }}
          novalidate
        >
          <label class="field">First day closed <input type="date" bind:value={from} /></label>
          <label class="field">Last day closed <input type="date" bind:value={to} /></label>
          <label class="tick"
            ><input type="radio" name="stands" value="visited" bind:group={stands} /> Somebody comes once a week</label
          >
          <label class="tick"
            ><input type="radio" name="stands" value="alone" bind:group={stands} /> Nobody comes</label
          >
          <button class="for-keeper btn btn-primary" disabled={!preview}
            >{preview ? `Close it for ${r.days} days` : 'Say both days'}</button
          >
        </form>
        {#if !preview}<p class="mt-3 max-w-2xl">
            From five days on a machine is closed down, not just left. What it comes to stands below before you save
            it.
          </p>{/if}
      {/if}
      {#if r.from && r.back}<div class="mt-6"><RestStrip rest={r} /></div>{/if}
      <div class="acts">
        {#if r.state === 'ahead' && !preview}
          <StartWash
            machine={id}
            parts={[theMachine]}
            task="lay_up"
            text="Close it down now: lead me"
            line={!r.close_now || r.wash_first.length > 0}
          />
          {@const away = r.away_id}
          {#if away}<button type="button" class="for-keeper btn btn-outline" onclick={() => forget(away)}
              >It stays open: forget these days</button
            >{/if}
        {:else if r.state === 'laid_up'}
          {#if next}<StartWash machine={id} parts={[theMachine]} task="visit" text="Visit it now: lead me" />{/if}
          <StartWash
            machine={id}
            parts={[theMachine]}
            task="return"
            text="Bring it back now: lead me"
            line={next !== undefined}
          />
        {/if}
      </div>
      {#if r.stood && (r.state === 'laid_up' || r.stood.long)}
        <p class="mt-5 max-w-3xl" class:caution={r.stood.long}>
          {#if r.stood.long}<b
              >On the return, first ask the local health authority if anybody else drinks from it.</b
            >{' '}{/if}{#if r.state === 'laid_up'}{r.stood.because.text}{:else if r.stood.long}{r.days} days {r
              .visits.length === 0
              ? 'without a visit'
              : ''} count as long: something may have grown in the water.{/if}
        </p>
      {/if}
      <div class="three">
        {#each r.plans as x (x.task)}{@render column(x)}{/each}
      </div>
      {#if r.after.length > 0 && r.from}
        <section class="mt-8 max-w-3xl">
          <h2 class="label-voice">Falls due by then, and waits for the return</h2>
          <p>
            {r.after.join(', ')}. What is worn by use stands still meanwhile; what is counted by days goes on.
            {r.filter_due ? 'The filter is due by its age: have a new one ready.' : ''}
          </p>
        </section>
      {/if}
    {/if}
  {/if}
</div>

<style>
  .ask {
    display: flex;
    flex-wrap: wrap;
    gap: 14px 26px;
    align-items: end;
    margin-top: 18px;
  }
  .acts {
    display: flex;
    flex-wrap: wrap;
    gap: 14px;
    margin-top: 18px;
  }
  .acts :global(.btn) {
    min-height: 60px;
    font-size: 20px;
  }
  .three {
    display: grid;
    grid-template-columns: repeat(auto-fit, minmax(min(100%, 300px), 1fr));
    gap: 24px 40px;
    margin-top: 28px;
  }
  .part {
    padding-top: 10px;
    border-top: 2px solid var(--color-ink);
  }
  .part ol {
    margin: 8px 0;
    padding-left: 22px;
    list-style: decimal;
  }
</style>
