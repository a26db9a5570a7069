<!-- The newest entries of use: correct one, or take it back. -->
<script lang="ts">
  import { ask, client, newId, type Schemas } from '../../data/api'
  import { Act } from '../../data/resource.svelte'
  import { figure, groupOf, stamp, weekday } from '../../ui/format'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  let { machine, zone, onchanged }: { machine: string; zone: string; onchanged: () => void } = $props()
  let list = $state<Schemas['UseShown'][]>([])
  const act = new Act()
  const kinds: Record<string, [one: string, more: string]> = {
    single: ['single', 'singles'],
    double: ['double', 'doubles'],
    milk: ['milk drink', 'milk drinks'],
    flush: ['flush', 'flushes'],
  }
  let open = $state<string>()
  let count = $state<number | null>(1)

  async function load(of: string) {
    await act.try(async () => {
      list = (await ask(client.GET('/machines/{machine_id}/use', { params: { path: { machine_id: of } } }))).entries
    })
  }
  $effect(() => void load(machine))

  async function change(e: Schemas['UseShown'], undo: boolean) {
    const kind = undo ? ('undo' as const) : (e.kind as Schemas['UseEntry']['kind'])
    await act.try(async () => {
      const body = { id: newId(), kind, count: undo ? 1 : (count ?? 0), part: e.part, at: e.at, supersedes: e.id }
      await ask(client.POST('/machines/{machine_id}/use', { params: { path: { machine_id: machine } }, body }))
      open = undefined
      await load(machine)
      onchanged()
    })
  }
</script>

<ProblemNote problem={act.problem} />
{#if list.length === 0}<p>Nothing was logged yet. Until then your drinks a day stand in.</p>{/if}
<ul class="border-ink border-t-2">
  {#each list as e (e.id)}
    <li class="border-rule flex flex-wrap items-center gap-x-5 gap-y-1 border-b py-1">
      <span class="num-voice w-44">{e.day ? weekday(e.from, zone) : stamp(e.at, zone)}</span>
      <span class="grow"
        >{figure(e.count)}
        {(kinds[e.kind] ?? [e.kind, e.kind])[e.count === 1 ? 0 : 1]}{groupOf(e.part)
          ? `, group ${groupOf(e.part)}`
          : ''}{e.day || e.from === e.at ? '' : `, since ${stamp(e.from, zone)}`}</span
      >
      {#if open === e.id}
        <label class="flex items-center gap-2"
          >how many <input class="w-24" type="number" bind:value={count} aria-label="how many" /></label
        >
        <button type="button" class="btn btn-primary" onclick={() => change(e, false)}>Save</button>
      {:else}
        <span class="flex gap-x-5"
          ><button
            type="button"
            class="for-closer linked text-act"
            onclick={() => {
              open = e.id
              count = e.count
            }}>correct</button
          >
          <button type="button" class="for-closer linked text-act" onclick={() => change(e, true)}>undo</button
          ></span
        >
      {/if}
    </li>
  {/each}
</ul>
