<!-- Water: when it wants a descale, the one thing to do about it, and what else is known, folded. -->
<script lang="ts">
  import { ask, client, type Schemas } from '../../data/api'
  import { navigate, p, route } from '../../router'
  import Fold from '../../ui/Fold.svelte'
  import { amount, day, during, figure, short } from '../../ui/format'
  import Num from '../../ui/Num.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import Boilers from '../shared/Boilers.svelte'
  import Advice from './Advice.svelte'
  import Answer from './Answer.svelte'
  import Goes from './Goes.svelte'
  import Numbers from './Numbers.svelte'
  import Rules from './Rules.svelte'
  import ScaleCurve from './ScaleCurve.svelte'
  import Treatments from './Treatments.svelte'
  import { WaterPage } from './water.svelte'
  import WaterForm from './WaterForm.svelte'
  import WhatIf from './WhatIf.svelte'
  import Who from './Who.svelte'
  import WorthHere from './WorthHere.svelte'

  const page = new WaterPage()
  const { tried } = page
  const id = $derived((route.params as { id?: string }).id ?? page.machines[0]?.id ?? '')
  $effect(() => {
    if (id) void page.load(id)
    tried.reset()
  })
  $effect(() => page.try())
  const water = $derived(page.water)
  const other = $derived(page.other)
  const renewal = ({ renew, zone }: Schemas['WaterAtWork']) =>
    renew && `${renew.title.toLowerCase()} ${renew.state === 'later' ? day(renew.likely, zone) : 'now'}`
</script>

<div class="px-8"><ProblemNote problem={page.problem} /></div>
{#if water}
  {@const w = other ?? water}
  {@const lead = w.places.find((q) => q.leads)}
  <div class="px-5 pt-4 pb-16 md:px-8">
    <div class="flex flex-wrap items-baseline justify-between gap-x-8 gap-y-2">
      <label class="label-voice flex items-center gap-2"
        >Water of
        <select
          class="which"
          value={id}
          onchange={(e) => navigate('/machines/:id/water', { params: { id: e.currentTarget.value } })}
        >
          {#each page.machines as m (m.id)}<option value={m.id}>{m.name}</option>{/each}
        </select>
      </label>
      <button
        type="button"
        class="for-keeper btn btn-outline btn-primary"
        aria-expanded={page.entering}
        onclick={() => page.enter(!page.entering)}>{page.entering ? 'Cancel' : 'Enter a reading'}</button
      >
    </div>
    {#if page.entering}
      <section class="enter" aria-label="Enter a reading">
        <WaterForm
          sources={page.waters?.sources ?? []}
          strip={page.waters?.strip ?? []}
          refused={page.refused}
          onsample={(x) => (tried.sample = x)}
          onkept={page.kept}
        />
      </section>
    {/if}

    <div class="work" class:tried={other !== undefined}>
      <section class="answer"><Answer {w} tried={other !== undefined} onrecorded={() => page.load(id)} /></section>
      <section class="grid content-start gap-4">
        <div>
          <ScaleCurve places={w.places} />
          <ul class="mt-1 text-[16px]">
            {#each w.places as q (q.id)}
              <li>
                <b>{q.title}</b>: <Num worked={q.rate} text="{figure(q.rate.value)} mg a day" />, <Num
                  worked={q.grown}
                  text="{q.grown.value.toFixed(2)} mm"
                /> now{#if q.hotter && q.hotter.value >= 0.5}, which runs it <Num
                    worked={q.hotter}
                    text="{short(q.hotter.value)} K"
                  /> hotter{/if}.{q.leads && w.places.length > 1 ? ' It decides.' : ''}
              </li>
            {/each}
          </ul>
        </div>
        {#if w.advice && !other}{@const advice = w.advice}<Advice
            {advice}
            onchoose={() =>
              page.again(() =>
                page.draw(w.source?.id, w.table.find((r) => r.setting.kind === advice.kind)!.setting),
              )}
          />{/if}
      </section>
    </div>

    <Fold title="What if" note="other water, other use, another treatment"
      ><WhatIf {w} most={Math.max(30, Math.ceil(water.drinks * 3))} {tried} asking={tried.any} /></Fold
    >
    {#if !other && (w.worth?.length ?? 0) > 0}<Fold title="Worth finding out" note={w.worth?.[0]?.label ?? ''}
        ><WorthHere
          {w}
          onenter={() => {
            page.enter(true)
            scrollTo({ top: 0 })
          }}
        /></Fold
      >{/if}
    <Fold title="The water in numbers" note={w.known ? `read, ${w.treatment_title}` : 'nobody has read it yet'}>
      <Numbers
        {w}
        waters={page.waters}
        onsource={page.kept}
        ondate={(reading, on) =>
          page.again(() =>
            ask(
              client.PATCH('/readings/{reading_id}', {
                params: { path: { reading_id: reading } },
                body: { at: during(on) },
              }),
            ),
          )}
        onforget={(reading) =>
          page.again(() =>
            ask(client.DELETE('/readings/{reading_id}', { params: { path: { reading_id: reading } } })),
          )}
      />
    </Fold>
    <Fold title="The rules side by side" note="scale, calendar, a year"><Rules {w} /></Fold>
    <Fold
      title="Where it goes"
      note={[`${amount(w.litres.at(-1)?.value ?? 0, 'L')} a day`, !other && renewal(w)].filter(Boolean).join('; ')}
      ><Goes {w} onrecorded={() => page.load(id)} /></Fold
    >
    <Fold title="Who descales it" note={w.suits.finding.title}
      ><Who
        {w}
        onstance={(value) =>
          page.again(() =>
            ask(
              client.POST('/machines/{machine_id}/facts', {
                params: { path: { machine_id: id } },
                body: { version: water!.version, facts: [{ key: 'stance', value }] },
              }),
            ),
          )}
      /></Fold
    >
    <Boilers machine={w.machine_id} zone={w.zone} onkept={() => page.load(id)} />
    <Fold title="Ways to treat the water" note="{w.table.length} side by side">
      <p class="text-ink-2 mb-2 text-[15px]">
        For this water, this machine and {figure(w.drinks)} drinks a day. None stops scale completely.
        {'Prices are placeholders until you type in yours; a litre of tap water and salt are counted.'}
      </p>
      <Treatments water={w} onchosen={(w) => page.chosen(w)} onsaid={() => page.load(id)} />
    </Fold>
    {#if lead}<p class="sr-only">The {lead.title} reaches its limit first.</p>{/if}
  </div>
{:else if !page.problem && page.machines.length === 0}
  <p class="px-8 pt-8 text-[20px]">
    No machine yet. <a class="for-keeper underline" href={p('/machines/new')}>Answer the five questions</a> first.
  </p>
{/if}

<style>
  .which {
    max-width: 60vw;
    font-weight: 700;
    font-size: 18px;
  }
  .enter {
    margin-top: 14px;
    padding: 16px 20px;
    border: 2px solid var(--color-ink);
    background: var(--color-slip);
  }
  .work {
    display: grid;
    grid-template-columns: minmax(0, 460px) minmax(0, 1fr);
    gap: 16px 40px;
    margin-top: 12px;
    padding-bottom: 16px;
  }
  .tried .answer {
    background: var(--color-act-soft);
    margin: -8px -14px;
    padding: 8px 14px;
  }
  @media (max-width: 1000px) {
    .work {
      grid-template-columns: minmax(0, 1fr);
    }
  }
  @media print {
    .enter {
      display: none;
    }
  }
</style>
