<!-- A reading of the machine's own counter becomes use over its span. -->
<script lang="ts">
  import { ask, client, newId, type Schemas } from '../../data/api'
  import { Act } from '../../data/resource.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { figure, weekday } from '../../ui/format'

  let {
    machine,
    zone,
    counter,
    onread,
  }: { machine: string; zone: string; counter: Schemas['Machine']['counter']; onread: () => void } = $props()
  let reading = $state<number | null>(null)
  let reset = $state<boolean>()
  const act = new Act()
  let counted = $state<Schemas['Counted']>()
  const fell = $derived(counter.last !== undefined && reading !== null && reading < counter.last)

  async function read(event: SubmitEvent) {
    event.preventDefault()
    await act.try(async () => {
      const body = {
        id: newId(),
        reading: reading ?? -1,
        at: new Date().toISOString(),
        ...(reset !== undefined && { reset }),
      }
      counted = await ask(
        client.POST('/machines/{machine_id}/counter', { params: { path: { machine_id: machine } }, body }),
      )
      reading = null
      reset = undefined
      onread()
    })
  }
</script>

<p class="mb-2 max-w-2xl text-[16px]">
  Once in a while, read it off. It counts {figure(counter.each)} a drink{counter.each === 2
    ? ', its flush too'
    : ''}; what was pressed in since the reading before is part of it.
  {#if counter.last !== undefined && counter.last_at}The last reading was <b>{figure(counter.last)}</b>, {weekday(
      counter.last_at,
      zone,
    )}.{:else}The first one only begins the count{counter.washed
      ? ', unless it went back to 0 with the wash on record'
      : ''}.{/if}
</p>
<form class="for-closer flex flex-wrap items-end gap-3" novalidate onsubmit={read}>
  <label class="field">It shows <input class="w-32" type="number" step="any" bind:value={reading} /></label>
  {#if counter.washed || fell || act.problem?.field === 'reset'}
    <div class="flex" role="radiogroup" aria-label="Did it go back to 0 since?">
      <label class="pick"
        ><input class="sr-only" type="radio" value={true} bind:group={reset} />went back to 0{counter.washed
          ? ' with the wash'
          : ''}</label
      >
      <label class="pick"><input class="sr-only" type="radio" value={false} bind:group={reset} />counted on</label>
    </div>
  {/if}
  <button class="btn btn-outline btn-primary" disabled={reading === null}>Save the reading</button>
</form>
{#if counted}<p class="mt-2" role="status">
    <b>{figure(counted.drinks)} drinks</b> since {weekday(counted.from, zone)}.
  </p>{/if}
<ProblemNote problem={act.problem} />

<style>
  input[type='number'] {
    font-size: 20px;
    font-weight: 700;
  }
</style>
