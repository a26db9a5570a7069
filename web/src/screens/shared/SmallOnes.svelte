<!-- The small tasks of the day, folded under the one job. -->
<script lang="ts">
  import { ask, client, newId, type BenchMachine, type Schemas } from '../../data/api'
  import { Act } from '../../data/resource.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { groupParts } from '../../ui/format'
  import { p } from '../../router'
  import StartWash from './StartWash.svelte'

  let { machine, onchanged }: { machine: BenchMachine; onchanged: (m: BenchMachine) => void } = $props()
  const act = new Act()

  // how, and why, is asked for when the list is opened
  let told = $state<Record<string, Schemas['Small']>>()
  async function tell() {
    await act.try(async () => {
      const m = await ask(client.GET('/machines/{machine_id}', { params: { path: { machine_id: machine.id } } }))
      told = Object.fromEntries(m.small.map((s) => [s.task, s]))
    })
  }

  async function done(jobs: Schemas['SmallJob'][]) {
    const tasks = jobs.map((j) => j.task) as Schemas['SmallDone']['tasks']
    await act.try(async () => {
      onchanged(
        await ask(
          client.POST('/machines/{machine_id}/small', {
            params: { path: { machine_id: machine.id } },
            body: { id: newId(), tasks, at: new Date().toISOString() },
          }),
        ),
      )
    })
  }
</script>

<details class="mt-1" ontoggle={(e) => e.currentTarget.open && void tell()}>
  <summary class="text-ink-2 narrow min-h-11 cursor-pointer py-2 text-[16px]"
    >Daily: {machine.small.length} quick {machine.small.length === 1 ? 'job' : 'jobs'}</summary
  >
  {#if told}
    {@const more = told}
    <ul class="border-rule border-t">
      {#each machine.small as s (s.task)}
        <li class="border-rule flex flex-wrap items-center gap-x-4 gap-y-1 border-b py-1">
          <div class="min-w-[190px] flex-1">
            <b>{s.title}</b>
            {#if more[s.task]}
              <p class="text-[15px]">{more[s.task]!.how}</p>
              <p class="label-voice">{more[s.task]!.because.text}</p>
            {/if}
          </div>
          <div class="flex items-center gap-3">
            {#if more[s.task]?.leads}<div class="lead">
                <StartWash
                  machine={machine.id}
                  parts={groupParts(machine.groups)}
                  method={more[s.task]!.leads as Schemas['NewRun']['method']}
                  text="Lead me"
                  line
                />
              </div>{/if}
            <button type="button" class="for-closer minor" onclick={() => done([s])}
              >done<span class="sr-only">: {s.title}</span></button
            >
          </div>
        </li>
      {/each}
    </ul>
    <a
      class="mt-2 mr-4 inline-block min-h-11 py-2 underline underline-offset-4"
      href={p('/machines/:id/close', { params: { id: machine.id } })}>Tonight's close, with who did it</a
    >
    {#if machine.small.length > 1}
      <button type="button" class="for-closer minor mt-2" onclick={() => done(machine.small)}
        >All of them are done</button
      >
    {/if}
  {/if}
  <ProblemNote problem={act.problem} />
</details>

<style>
  .lead :global(.btn) {
    min-height: 44px;
    padding: 6px 16px;
    font-size: 16px;
    font-weight: 600;
    font-stretch: 78%;
  }
</style>
