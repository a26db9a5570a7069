<!-- The next job by itself: how much, how long, when, and its button. -->
<script lang="ts">
  import type { BenchMachine, Schemas, Standing } from '../../data/api'
  import Around from '../../ui/Around.svelte'
  import Ask from '../../ui/Ask.svelte'
  import DoseWords from '../../ui/DoseWords.svelte'
  import { amount, clock, day, groupOf, round } from '../../ui/format'
  import { p } from '../../router'
  import SpoonPicture from '../../ui/SpoonPicture.svelte'
  import Begin from '../shared/Begin.svelte'
  import DoneBefore from '../shared/DoneBefore.svelte'
  import StartWash from '../shared/StartWash.svelte'

  let {
    machine,
    due,
    generous,
    onchanged,
  }: { machine: BenchMachine; due: Standing; generous: boolean; onchanged: () => void } = $props()
  const front: Schemas['Front'] = $derived(machine.alone ?? machine.front)
  const zone = $derived(machine.zone)
  const later = $derived(due.state === 'later')
  const dose = $derived(due.doses ? machine.wash?.dose : undefined)
  const grams = $derived(
    dose && (dose.form === 'tablets' ? 'one tablet' : dose.pinch ? 'a pinch' : amount(dose.grams, 'g')),
  )
</script>

{#if later}
  {#if dose && generous}<p class="huge-voice text-[clamp(56px,8vw,104px)]">{day(due.likely, zone)}</p>{/if}
  <p>{due.title} <Around {due} {zone} machine={machine.id} />.</p>
{:else if dose && machine.wash}
  {#if generous}<div class="my-3.5 flex items-center gap-8">
      {#if !dose.pinch}<SpoonPicture spoon={dose.spoon} height={150} />{/if}
      <span class="huge-voice text-[84px]"><DoseWords {dose} /></span>
    </div>{/if}
  <p>
    <b><Ask machine={machine.id} text={grams ?? ''} of={(m) => m.plan.wash?.dose?.mass} /></b>{machine.groups > 1
      ? ' a group'
      : ''}, {round(machine.wash.minutes)} minutes.
    {due.says}
    {#if due.daily && !due.now}About <b
        ><Ask
          machine={machine.id}
          text={clock(due.likely, zone)}
          of={(m) => m.plan.dues.find((d) => d.task === due.task && d.part === due.part)?.days}
        /></b
      >.{/if}
  </p>
{:else}
  <p>
    {due.says}
    {due.how}
    {#if due.clock?.kind === 'scale'}<a
        class="underline underline-offset-4"
        href={p('/machines/:id/water', { params: { id: machine.id } })}>What the water does</a
      >{/if}
  </p>
{/if}
{#if !later}
  <div class="flex flex-wrap gap-3">
    <Begin machine={machine.id} {front} line={(dose && !due.now) || machine.sitting !== undefined} />
    {#if dose && machine.together.length > 1}<StartWash
        machine={machine.id}
        parts={[due.part]}
        text="Group {groupOf(due.part)} only"
        line
      />{/if}
  </div>
  {#if !dose || due.state === 'unrecorded'}<details>
      <summary class="linked text-act py-2">Already done</summary><DoneBefore
        machine={machine.id}
        {due}
        parts={dose ? undefined : machine.together}
        onrecorded={onchanged}
      />
    </details>{/if}
{/if}
