<!-- One task of a machine: when it is due and why, and what may be done about it. -->
<script lang="ts">
  import type { Due, Schemas } from '../../data/api'
  import { groupOf, stamp, theMachine } from '../../ui/format'
  import Around from '../../ui/Around.svelte'
  import Ruler from '../../ui/Ruler.svelte'
  import { navigate, p } from '../../router'
  import DoneBefore from '../shared/DoneBefore.svelte'
  import Lead from '../shared/Lead.svelte'
  import SignOff from '../shared/SignOff.svelte'
  import StartWash from '../shared/StartWash.svelte'

  let {
    m,
    due,
    parts,
    stopped,
    lead = false,
    line = false,
    onchanged,
    onsigned,
  }: {
    m: Schemas['Machine']
    due: Due
    parts?: string[] | undefined // what it is begun for, where that is more than the part it is due on
    stopped: boolean
    lead?: boolean
    line?: boolean
    onchanged: () => void
    onsigned: () => void
  } = $props()
  const inside = $derived(groupOf(due.part) > 0 ? m.hazards.filter((h) => h.part === due.part) : [])
  const dirty = $derived(inside.some((h) => h.chemical === 'detergent'))
  const acid = $derived(m.hazards.some((h) => h.chemical === 'acid'))
  const why = $derived(
    due.because.filter((r) => !m.plan.intervals.some((i) => i.because.some((x) => x.text === r.text))),
  )
</script>

{#snippet when()}
  <p class="mt-1">
    {#if due.state === 'overdue'}<b class="text-stop">Overdue.</b>
    {:else if due.state === 'unrecorded'}{due.says}
    {:else if due.state === 'today'}<b>Due today.</b>
    {:else if due.days}Next <Around {due} zone={m.zone} />.{/if}
    {#if due.last}{due.begun ? 'Counted from' : 'Last done'} {stamp(due.last, m.zone)}.{/if}
  </p>
{/snippet}
{#snippet clocks()}
  <div class="mt-3 grid max-w-xl gap-2">
    {#each due.clocks as clock (clock.kind)}<Ruler {clock} {due} zone={m.zone} />{/each}
  </div>
{/snippet}
{#snippet reasons()}
  {#if due.how && (due.way === 'record' || due.state !== 'later')}<p class="mt-1 max-w-2xl">{due.how}</p>{/if}
  {#each why as r}<p class="text-ink-2 mt-1 max-w-2xl text-[15px]">{r.text}</p>{/each}
{/snippet}
{#snippet acts()}
  <div class="mt-4 grid gap-3">
    {#if m.open_run}
      {@const run = m.open_run.id}
      {#if m.open_run.parts.includes(due.part) && !m.open_run.unreadable}<button
          type="button"
          class="btn btn-primary justify-self-start"
          onclick={() => navigate('/machines/:id/runs/:run', { params: { id: m.id, run } })}
          >Go back to the run</button
        >{/if}
    {:else if stopped}
      <p>Not before a technician has seen it.</p>
    {:else if inside.some((h) => h.bars)}
      <p>No run is begun on it. Leave the handle locked and call a technician.</p>
    {:else if due.doses && inside.some((h) => h.chemical === 'pressure')}
      <div><StartWash machine={m.id} parts={[due.part]} task="unblock" text="Free the group" /></div>
    {:else if due.doses}
      <div class="flex flex-wrap gap-3">
        <StartWash
          machine={m.id}
          parts={parts ?? [due.part]}
          text={dirty ? 'Start the rinse' : 'Start the wash'}
          line={(line || due.state === 'later') && !dirty}
        />
        {#if (parts?.length ?? 0) > 1}<StartWash
            machine={m.id}
            parts={[due.part]}
            text="Group {groupOf(due.part)} only"
            line
          />{/if}
      </div>
    {:else if due.way === 'plan'}
      <div>
        <a
          class="btn btn-primary"
          class:btn-outline={(line || due.state === 'later') && !acid}
          href={p('/machines/:id/descale', { params: { id: m.id } })}
          >{acid ? 'Rinse the acid out' : 'See the plan'}</a
        >
      </div>
      {#if acid}<SignOff machine={m.id} part={theMachine} {onsigned} />{/if}
    {:else if due.way === 'lead' && inside.length === 0}
      <div><Lead machine={m.id} {due} parts={parts ?? [due.part]} line={line || due.state === 'later'} /></div>
    {/if}
    {#if inside.length === 0}<details class="for-closer">
        <summary class="linked py-2">Already done</summary><DoneBefore
          machine={m.id}
          {due}
          onrecorded={onchanged}
        />
      </details>{/if}
    {#each due.doses ? inside.filter((h) => h.chemical === 'pressure') : [] as h (h.chemical)}<p class="text-stop">
        <b>{h.text}.</b>
      </p>{/each}
    {#if inside.length > 0 && due.doses && !m.open_run}<SignOff machine={m.id} part={due.part} {onsigned} />{/if}
  </div>
{/snippet}

{#if lead}
  {@render acts()}
  {@render when()}
  {@render clocks()}
  {#if why.length > 0 || due.how}<details>
      <summary class="linked py-2">Why, and how</summary>{@render reasons()}
    </details>{/if}
{:else}
  {@render when()}
  {@render reasons()}
  {@render clocks()}
  {@render acts()}
{/if}
