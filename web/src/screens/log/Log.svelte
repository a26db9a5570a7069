<script lang="ts">
  import { ask, client, type Schemas } from '../../data/api'
  import { Resource } from '../../data/resource.svelte'
  import { clock, during, groupOf, round, weekday, worked } from '../../ui/format'
  import Around from '../../ui/Around.svelte'
  import Num from '../../ui/Num.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { p, route } from '../../router'

  const page = new Resource<Schemas['Log']>()
  const log = $derived(page.value)
  const id = $derived((route.params as { id?: string }).id)

  let small = $state(false)
  const load = (of: string | undefined, small: boolean) =>
    page.ask((signal) =>
      ask(client.GET('/log', { params: { query: { small, ...(of && { machine_id: of }) } }, signal })),
    )
  $effect(() => {
    document.title = 'Log · Fresh Anvil'
    void load(id, small)
  })
  // what is on record can be taken back, and dated anew where no run knows better
  let dates = $state<Record<string, string>>({})
  function correct(e: Schemas['LogEntry'], to?: string) {
    const path = { machine_id: e.machine_id, care_id: e.id }
    const params = { params: { path }, parseAs: 'text' as const }
    return page.change(
      () =>
        to
          ? ask(client.PATCH('/machines/{machine_id}/care/{care_id}', { ...params, body: { at: during(to) } }))
          : ask(client.DELETE('/machines/{machine_id}/care/{care_id}', params)),
      () => load(id, small),
    )
  }
  const few = 8 // more than these: the bench says what is due
  const outcomes: Record<Schemas['LogEntry']['outcome'], string> = {
    done: 'done',
    recorded: 'put on record',
    signed_off: 'signed off',
    stopped: 'stopped before the dose',
    stopped_unsafe: 'stopped, something left in',
    noted: 'a note',
  }
  const cupWords = (c: Schemas['Cup']) =>
    [
      c.colour === 'clear' ? 'no colour' : c.colour,
      `${c.foam === 'none' ? 'no' : c.foam} foam`,
      `${c.grains === '0' ? 'no' : c.grains} grains`,
    ].join(', ')
</script>

<div class="px-5 pt-7 pb-16 md:px-8">
  <h1 class="huge-voice text-[clamp(40px,5vw,64px)]">Log</h1>
  <ProblemNote problem={page.problem} />
  {#if log}
    <div class="mt-5 flex flex-wrap gap-x-12 gap-y-3">
      {#each log.machines.length > few ? [] : log.machines as m (m.id)}
        <div>
          <a class="num-voice text-[21px] hover:underline" href={p('/machines/:id', { params: { id: m.id } })}
            >{m.name}</a
          >
          {#if m.next}
            {@const next = m.next}
            <div>
              {#if next.state === 'overdue'}<span class="text-stop font-bold">{next.title} is overdue</span>
              {:else if next.state === 'unrecorded'}{next.title}: nothing on record
              {:else}next: {next.title.toLowerCase()}, <Around due={next} zone={m.zone} machine={m.id} />{/if}
            </div>
          {/if}
        </div>
      {/each}
    </div>
    <label class="mt-4 flex min-h-11 items-center gap-2"
      ><input type="checkbox" bind:checked={small} /> with the small ones of the day</label
    >
    {#if log.entries.length === 0}
      <p class="mt-8 text-[20px]">Nothing is on record yet. A wash that is led through writes itself down here.</p>
    {:else}
      <ol class="border-ink mt-6 border-t-2">
        {#each log.entries as e (e.id)}
          <li class="entry">
            <div class="num-voice text-[19px]">
              {weekday(e.at, e.zone)}<span class="label-voice block">{clock(e.at, e.zone)}</span>
            </div>
            <div>
              <b>{e.title}</b>{#if !id}, {e.machine_name}{/if}{#if groupOf(e.part) > 0}, group {groupOf(
                  e.part,
                )}{/if}
              <div
                class:text-stop={e.outcome === 'stopped_unsafe'}
                class:text-done={e.outcome === 'done' && !e.taken_back}
              >
                {e.taken_back ? 'taken back: counts for nothing' : outcomes[e.outcome]}
              </div>
              {#if e.was_at}<div class="label-voice">date corrected, was {weekday(e.was_at, e.zone)}</div>{/if}
            </div>
            <div class="text-[15px]">
              {#if e.note}{e.note}{/if}
              {#if e.by}<div>by {e.by}</div>{/if}
              {#if e.paper}<div>
                  paper {e.paper}{e.paper_dated ? `, of ${weekday(e.paper_dated, e.zone)}` : ''}
                </div>{/if}
              {#if e.first && e.first !== 'unseen'}<div>first discharge: {e.first}</div>{/if}
              {#if e.dose}<Num
                  worked={e.dose.mass}
                  text={e.dose.form === 'tablets' ? 'one tablet' : worked(e.dose.mass)}
                /> detergent,
              {/if}
              {#if e.soapy_pulses}{e.soapy_pulses} pulses with it,
              {/if}
              {#if e.rinse_pulses}{e.rinse_pulses} of water{/if}
              {#if e.cups}
                <div>
                  cup: {cupWords(e.cups.at(-1)!)}{e.cups.length > 1
                    ? `, at the ${e.cups.length}${e.cups.length === 2 ? 'nd' : e.cups.length === 3 ? 'rd' : 'th'} look`
                    : ''}
                </div>
              {/if}
              {#if e.counts}
                <details class="for-closer">
                  <summary class="text-ink-2 min-h-11 cursor-pointer py-2">Not so?</summary>
                  <div class="flex flex-wrap items-center gap-2">
                    <button type="button" class="minor" onclick={() => correct(e)}>Undo</button>
                    {#if !e.run_id}
                      <label class="minor gap-2"
                        >it was on <input
                          class="bg-transparent"
                          type="date"
                          bind:value={dates[e.id]}
                          aria-label="the day it was done: {e.title}"
                        /></label
                      >
                      {#if dates[e.id]}<button type="button" class="minor" onclick={() => correct(e, dates[e.id])}
                          >Save that day</button
                        >{/if}
                    {/if}
                  </div>
                </details>
              {/if}
            </div>
            <div class="num-voice text-right text-[19px]">
              {#if e.minutes !== undefined}{round(e.minutes)} min{/if}
            </div>
          </li>
        {/each}
      </ol>
    {/if}
  {/if}
</div>

<style>
  .entry {
    display: grid;
    grid-template-columns: 130px minmax(220px, 1fr) minmax(240px, 1.2fr) 80px;
    gap: 20px;
    align-items: baseline;
    padding: 10px 0;
    border-bottom: 1px solid var(--color-rule);
  }
  @media (max-width: 800px) {
    .entry {
      grid-template-columns: 100px 1fr;
      gap: 4px 16px;
    }
    .entry > :nth-child(3),
    .entry > :nth-child(4) {
      grid-column: 2;
      text-align: left;
    }
  }
</style>
