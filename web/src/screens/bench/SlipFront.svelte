<!-- The one thing to do with a machine: what to know before, and its one button. -->
<script lang="ts">
  import type { BenchMachine } from '../../data/api'
  import Ask from '../../ui/Ask.svelte'
  import { clock, round } from '../../ui/format'
  import { p } from '../../router'
  import Begin from '../shared/Begin.svelte'
  import SlipSingle from './SlipSingle.svelte'

  let {
    machine,
    generous,
    docked,
    onchanged,
  }: { machine: BenchMachine; generous: boolean; docked: boolean; onchanged: () => void } = $props()
  const front = $derived(machine.front)
  const due = $derived(machine.next)
  const evening = $derived(machine.evening)
</script>

{#if front.says.length > 0}
  <p>
    {#each front.says as s, i (s)}{i > 0 ? ' ' : ''}<span class:font-bold={front.begin === 'see' || machine.laid_up}
        >{s}</span
      >{/each}
    {#if machine.laid_up}<a
        class="underline underline-offset-4"
        href={p('/machines/:id/rest', { params: { id: machine.id } })}>Visits and return</a
      >{/if}
    {#if front.pulses && machine.wash}
      It takes <b
        ><Ask
          machine={machine.id}
          text="{round(machine.wash.rinse)} water pulses"
          of={(m) => m.plan.wash?.rinse}
        /></b
      >, {round(machine.wash.minutes)} minutes.
    {/if}
  </p>
{/if}
{#if front.unsafe || front.begin === 'go_on'}
  <Begin machine={machine.id} {front} run={machine.open_run?.id} onended={onchanged} />
{:else if machine.sitting}
  {@const sitting = machine.sitting}
  <p>
    In one sitting: about <b
      ><Ask machine={machine.id} text="{round(sitting.minutes)} minutes" of={(m) => m.sittings[0]?.minutes} /></b
    >
    of your time, <Ask
      machine={machine.id}
      text="{round(sitting.alone)} one by one"
      of={(m) => m.sittings[0]?.alone}
    />.
  </p>
  {#if front.begin === 'sheet' || front.begin === 'order'}<Begin machine={machine.id} {front} />{/if}
  {#if docked && due}
    <p class="label-voice mt-2">Or one of them by itself: {due.title.toLowerCase()}.</p>
    <SlipSingle {machine} {due} {generous} {onchanged} />
  {/if}
{:else if due}
  <SlipSingle {machine} {due} {generous} {onchanged} />
{/if}
{#if evening && due && !front.unsafe && front.begin !== 'go_on'}
  <p>
    All of tonight that is led: <Ask
      machine={machine.id}
      text="{round(evening.minutes)} minutes"
      of={(m) => m.evening?.minutes}
    />, of it {round(evening.hands_min)} with your hands; done about <b>{clock(evening.end_at, machine.zone)}</b>.
    <a class="underline underline-offset-4" href={p('/machines/:id/close', { params: { id: machine.id } })}
      >Tonight's close</a
    >
  </p>
{/if}
