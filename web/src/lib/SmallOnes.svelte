<!-- The small tasks of the day, folded under the one job. -->
<script lang="ts">
  import { ask, client, newId, problemOf, type BenchMachine, type Problem, type Schemas } from './api'
  import { groupParts } from './format'
  import StartWash from './StartWash.svelte'

  let { machine, onchanged }: { machine: BenchMachine; onchanged: (m: BenchMachine) => void } = $props()
  let problem = $state<Problem>()

  async function done(tasks: Schemas['SmallDone']['tasks']) {
    try {
      onchanged(await ask(client.POST('/machines/{machine_id}/small', { params: { path: { machine_id: machine.id } }, body: { id: newId(), tasks, at: new Date().toISOString() } })))
      problem = undefined
    } catch (error) {
      problem = problemOf(error)
    }
  }
</script>

<details class="mt-1">
  <summary class="text-ink-2 narrow min-h-11 cursor-pointer py-2 text-[16px]">Daily: {machine.small.length} quick {machine.small.length === 1 ? 'job' : 'jobs'}</summary>
  <ul class="border-rule border-t">
    {#each machine.small as s (s.task)}
      <li class="border-rule flex flex-wrap items-center gap-x-4 gap-y-1 border-b py-1">
        <div class="min-w-[190px] flex-1">
          <b>{s.title}</b>
          <p class="text-[15px]">{s.how}</p>
          <p class="label-voice">{s.because.text}</p>
        </div>
        <div class="flex items-center gap-3">
        {#if s.task === 'water_backflush'}<div class="lead"><StartWash machine={machine.id} parts={groupParts(machine.groups)} method="water_only" text="Lead me" line /></div>{/if}
        <button type="button" class="tick" onclick={() => done([s.task])}>done<span class="sr-only">: {s.title}</span></button>
        </div>
      </li>
    {/each}
  </ul>
  {#if machine.small.length > 1}
    <button type="button" class="tick mt-2" onclick={() => done(machine.small.map((s) => s.task))}>All of them are done</button>
  {/if}
  {#if problem}<p class="caution" role="alert">{problem.title}</p>{/if}
</details>

<style>
  .tick,
  .lead :global(.btn) {
    min-height: 44px;
    padding: 6px 16px;
    font-size: 16px;
    font-weight: 600;
    font-stretch: 78%;
  }
  .tick {
    border: 1.5px solid var(--color-ink);
    cursor: pointer;
  }
</style>
