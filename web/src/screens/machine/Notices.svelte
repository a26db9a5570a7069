<!-- What somebody has to know of a machine before anything else. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { day, groupOf, theMachine } from '../../ui/format'
  import SignOff from '../shared/SignOff.svelte'
  import VoidRun from '../shared/VoidRun.svelte'

  let { m, onseen, onsigned }: { m: Schemas['Machine']; onseen: () => void; onsigned: () => void } = $props()
  const stopped = $derived(m.hazards.find((h) => h.chemical === 'stopped'))
</script>

{#if m.archived}<p class="mt-3"><b>Archived.</b> It stands on no bench; its log is kept.</p>{/if}
{#if m.trouble}<p class="text-stop mt-3"><b>Something of its record cannot be read:</b> {m.trouble}.</p>{/if}
{#if m.moved.length > 0}
  <div class="caution mt-3 max-w-2xl">
    <b
      >The update moved {m.moved.length === 1 ? 'a date' : 'dates'}: what was answered before now counts for its own
      time.</b
    >
    {#each m.moved as x (x.task + x.part)}<p>
        {x.title}{groupOf(x.part) > 0 && m.plan.groups > 1 ? `, group ${groupOf(x.part)}` : ''}: was {day(
          x.was,
          m.zone,
        )}, is {day(x.is, m.zone)}.
      </p>{/each}
    <button type="button" class="for-closer btn btn-outline btn-primary mt-2" onclick={onseen}
      >I have seen it</button
    >
  </div>
{/if}
{#if m.open_run?.unreadable}
  <div class="mt-3 grid max-w-2xl gap-2">
    <p>
      <b>A run on it cannot be carried on:</b> its plan cannot be read any more. End it by name; what is in the machine
      stays on record.
    </p>
    <VoidRun run={m.open_run.id} onended={onsigned} />
  </div>
{/if}
{#if stopped}
  <section class="border-stop mt-5 max-w-3xl border-[6px] px-4 py-3" role="alert">
    <h2 class="head-voice text-[28px]">Switch off, and do not use it</h2>
    <p class="mb-2"><b>{stopped.text}.</b> Nothing is led on it meanwhile.</p>
    <SignOff machine={m.id} part={theMachine} what="stopped" {onsigned} />
  </section>
{/if}
