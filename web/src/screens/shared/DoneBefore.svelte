<!-- Care that was done without a run: one press says when. -->
<script lang="ts">
  import { ask, client, newId, type Due, type Schemas, type Standing } from '../../data/api'
  import { Act } from '../../data/resource.svelte'
  import { during } from '../../ui/format'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  let {
    machine,
    due,
    parts,
    onrecorded,
  }: { machine: string; due: Due | Standing; parts?: string[]; onrecorded: () => void } = $props()
  const act = new Act()
  let date = $state('')
  // what somebody else does leaves a paper: by whom, and its number
  const others = $derived(due.whose !== 'anybody')
  let by = $state('')
  let number = $state('')
  const ago = [
    { text: 'today', days: 0 },
    { text: 'a week ago', days: 7 },
    { text: 'two weeks ago', days: 14 },
    { text: 'a month ago', days: 30 },
  ]

  let noted = $state(false)
  async function booked() {
    await act.try(async () => {
      const text =
        ['Booked', date && `for ${date}`, by.trim() && `with ${by.trim()}`].filter(Boolean).join(' ') + '.'
      await ask(
        client.POST('/machines/{machine_id}/notes', {
          params: { path: { machine_id: machine } },
          body: { id: newId(), text, task: due.task },
        }),
      )
      noted = true
    })
  }
  async function record(at: Date) {
    await act.try(async () => {
      const left = { ...(number.trim() && { number: number.trim() }), dated: at.toISOString() }
      const said = others ? { ...(by.trim() && { by: by.trim() }), paper: left } : {}
      const body = {
        id: newId(),
        task: due.task as Schemas['RecordedTask'], // shown for no other
        parts: parts?.length ? parts : [due.part],
        at: at.toISOString(),
        ...said,
      }
      await ask(client.POST('/machines/{machine_id}/care', { params: { path: { machine_id: machine } }, body }))
      onrecorded()
    })
  }
</script>

{#if others}
  <div class="for-closer flex flex-wrap items-center gap-2">
    <label class="when flex items-center gap-2"
      >by <input class="w-44 bg-transparent" maxlength="40" bind:value={by} placeholder="firm or name" /></label
    >
    <button type="button" class="minor" disabled={!by.trim() && !date} onclick={booked}
      >Note: booked{date ? ` for ${date}` : ''}{by.trim() ? `, ${by.trim()}` : ''}</button
    >
    <label class="when flex items-center gap-2"
      >paper no. <input class="w-32 bg-transparent" maxlength="60" bind:value={number} /></label
    >
  </div>
{/if}
<div class="for-closer flex flex-wrap items-center gap-2">
  <span class="label-voice">It was done</span>
  {#each ago as a (a.text)}
    <button type="button" class="minor" onclick={() => record(new Date(Date.now() - a.days * 86_400_000))}
      >{a.text}</button
    >
  {/each}
  <label class="when flex items-center gap-2"
    >on <input class="bg-transparent" type="date" bind:value={date} aria-label="the day it was done" /></label
  >
  {#if date}<button type="button" class="minor" onclick={() => record(new Date(during(date)))}>Save that day</button
    >{/if}
</div>
{#if noted}<p role="status">It stands in the log. The date moves when it has been done.</p>{/if}
<ProblemNote problem={act.problem} />
