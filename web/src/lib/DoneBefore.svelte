<!-- Care that was done without a run: one press says when. -->
<script lang="ts">
  import { ask, client, newId, problemOf, type Due, type Problem, type Standing } from './api'
  import { during } from './format'
  import ProblemNote from './ProblemNote.svelte'

  let { machine, due, parts, onrecorded }: { machine: string; due: Due | Standing; parts?: string[]; onrecorded: () => void } = $props()
  let problem = $state<Problem>()
  let date = $state('')
  const ago = [
    { text: 'today', days: 0 },
    { text: 'a week ago', days: 7 },
    { text: 'two weeks ago', days: 14 },
    { text: 'a month ago', days: 30 },
  ]

  async function record(at: Date) {
    try {
      const body = { id: newId(), task: due.task, parts: parts?.length ? parts : [due.part], at: at.toISOString() }
      await ask(client.POST('/machines/{machine_id}/care', { params: { path: { machine_id: machine } }, body }))
      problem = undefined
      onrecorded()
    } catch (error) {
      problem = problemOf(error)
    }
  }
</script>

<div class="flex flex-wrap items-center gap-2">
  <span class="label-voice">It was done</span>
  {#each ago as a (a.text)}
    <button type="button" class="when" onclick={() => record(new Date(Date.now() - a.days * 86_400_000))}>{a.text}</button>
  {/each}
  <label class="when flex items-center gap-2">on <input class="bg-transparent" type="date" bind:value={date} aria-label="the day it was done" /></label>
  {#if date}<button type="button" class="when" onclick={() => record(new Date(during(date)))}>Save that day</button>{/if}
</div>
{#if problem}<ProblemNote {problem} />{/if}

<style>
  .when {
    min-height: 44px;
    border: 1.5px solid var(--color-ink);
    padding: 6px 12px;
    font-size: 15px;
    font-weight: 600;
    font-stretch: 75%;
    cursor: pointer;
  }
</style>
