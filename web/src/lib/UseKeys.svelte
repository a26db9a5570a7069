<!-- The stub's keys: one press logs a drink. -->
<script lang="ts">
  import { ask, client, newId, problemOf, type BenchMachine, type Problem, type Schemas } from './api'

  let { machine, onlogged }: { machine: BenchMachine; onlogged: (m: BenchMachine) => void } = $props()
  let problem = $state<Problem>()
  const kinds = ['single', 'double', 'milk', 'flush'] as const

  async function log(entry: Pick<Schemas['UseEntry'], 'kind' | 'supersedes'>) {
    try {
      const body = { id: newId(), at: new Date().toISOString(), ...entry }
      onlogged(await ask(client.POST('/machines/{machine_id}/use', { params: { path: { machine_id: machine.id } }, body })))
      problem = undefined
    } catch (error) {
      problem = problemOf(error)
    }
  }
</script>

<div class="label-voice mt-2 flex flex-wrap items-baseline justify-between gap-x-3">
  <span>today {machine.today.drinks} {machine.today.drinks === 1 ? 'drink' : 'drinks'}</span>
  {#if machine.today.last_entry}
    {@const last = machine.today.last_entry}
    <button type="button" class="text-act cursor-pointer py-1 underline underline-offset-4" onclick={() => log({ kind: 'undo', supersedes: last })}>undo {machine.today.last_kind}</button>
  {/if}
</div>
<div class="mt-1.5 flex" role="group" aria-label="Log use of {machine.name}">
  {#each kinds as kind (kind)}
    <button type="button" class="key" onclick={() => log({ kind })}>{kind}</button>
  {/each}
</div>
{#if problem}<p class="caution mt-2 text-[15px]" role="alert"><b>{problem.title}.</b> {problem.allowed ? `Allowed: ${problem.allowed}.` : problem.detail}</p>{/if}

<style>
  .key {
    flex: 1;
    min-height: 46px;
    border: 1.5px solid var(--color-ink);
    margin-left: -1.5px;
    font-size: 15px;
    font-weight: 600;
    font-stretch: 75%;
    cursor: pointer;
  }
  .key:first-child {
    margin-left: 0;
  }
  .key:active {
    background: var(--color-ink);
    color: var(--color-paper);
  }
</style>
