<!-- When this machine wants a descale by its water, which rule decided, and what to do about it. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { p } from '../../router'
  import { day, otherYear, range, span, stamp } from '../../ui/format'
  import Num from '../../ui/Num.svelte'
  import Ruler from '../../ui/Ruler.svelte'
  import DoneBefore from '../shared/DoneBefore.svelte'

  type Work = Schemas['WaterAtWork']
  let { w, tried, onrecorded }: { w: Work; tried: boolean; onrecorded: () => void } = $props()
  const said = $derived(
    w.due.state === 'unrecorded'
      ? 'Nothing on record: if it was done, say when.'
      : w.due.last
        ? `Last done ${stamp(w.due.last, w.zone)}.`
        : '',
  )
</script>

<div class="label-voice">{tried ? 'What if' : `${w.suits.finding.title}, ${w.machine_name}`}</div>
<h1 class="huge-voice date" class:text-act={w.due.now && !tried}>
  {#if tried}{w.inspect ? 'Only look' : w.every.value >= 360 ? '' : 'Every '}{#if !w.inspect}<Num
        worked={w.every}
        text={span(w.every.value)}
      />{/if}
  {:else if w.due.state === 'unrecorded'}Due now
  {:else if w.due.state === 'overdue'}{w.due.title}: overdue
  {:else}{#if w.due.days}<Num worked={w.due.days} text={day(w.due.likely, w.zone)} />{:else}{day(
        w.due.likely,
        w.zone,
      )}{/if}{#if otherYear(w.due.likely, w.zone)}<span class="head-voice ml-3 text-[30px]"
        >{otherYear(w.due.likely, w.zone)}</span
      >{/if}{/if}
</h1>
{#if !tried}
  <p class="text-[19px]">
    <b>{w.due.title}</b>{#if w.due.state === 'later' && range(w.due, w.zone)}{' '}({range(w.due, w.zone)}){/if}. {said}
  </p>
  <div class="mt-2 grid max-w-xl gap-1">
    {#each w.due.clocks as c (c.kind)}<Ruler clock={c} due={w.due} zone={w.zone} />{/each}
  </div>
{/if}
{#if w.treat_first}
  {@const first = w.treat_first}
  <div class="caution mt-3" role="note">
    <b class="head-voice text-[22px]">{first.title}.</b>
    {first.because.map((r) => r.text).join(' ')} <b>{(first.next ?? []).join(' ')}</b>
  </div>
{/if}
<p class="mt-2">{w.decided.text}</p>
{#if !tried}
  <div class="mt-2 flex flex-wrap items-center gap-x-5">
    <a class="btn btn-outline btn-primary" href={p('/machines/:id/descale', { params: { id: w.machine_id } })}
      >The descale card</a
    >
    <details>
      <summary class="linked py-2">Already done</summary><DoneBefore
        machine={w.machine_id}
        due={w.due}
        {onrecorded}
      />
    </details>
  </div>
{/if}

<style>
  .date {
    margin: 8px 0 12px;
    font-size: clamp(52px, 6.4vw, 92px);
  }
</style>
