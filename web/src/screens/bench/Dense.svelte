<!-- The bench for many machines: bands by how much they press, or groups by owner or place; a line each, ticked into
     today's work. -->
<script lang="ts">
  import type { BenchMachine } from '../../data/api'
  import { isPlain } from '../../data/state.svelte'
  import { p } from '../../router'
  import DenseLine from './DenseLine.svelte'

  let { machines = $bindable(), onchanged }: { machines: BenchMachine[]; onchanged: () => void } = $props()
  const most = 8 // are seen to in one go
  let filter = $state('')
  let sort = $state<'due' | 'name' | 'owner' | 'place'>('due')
  let ticked = $state<string[]>([])
  let field = $state<HTMLInputElement>()
  const bands: [BenchMachine['band'], string][] = [
    ['unsafe', 'Unsafe: no drinks'],
    ['late', 'Late'],
    ['this_week', 'This week'],
    ['not_known', 'Not known: nothing on record'],
    ['later', 'Later'],
  ]
  const shown = $derived.by(() => {
    const words = filter.toLowerCase().split(/\s+/).filter(Boolean)
    const text = (m: BenchMachine) =>
      `${m.name} ${m.owner} ${m.place} ${m.layout_title} ${m.next?.head ?? ''}`.toLowerCase()
    return machines.map((m, at) => ({ m, at })).filter(({ m }) => words.every((w) => text(m).includes(w)))
  })
  type Group = { title: string; list: { m: BenchMachine; at: number }[] }
  const groups = $derived.by((): Group[] => {
    const named = (a: { m: BenchMachine }, b: { m: BenchMachine }) => a.m.name.localeCompare(b.m.name)
    if (sort === 'due')
      return bands
        .map(([band, title]) => ({ title, list: shown.filter(({ m }) => m.band === band) }))
        .filter((g) => g.list.length > 0)
    if (sort === 'name') return [{ title: '', list: [...shown].sort(named) }]
    const of = sort
    return [...new Set(shown.map(({ m }) => m[of]))]
      .sort((a, b) => (a || '\uffff').localeCompare(b || '\uffff'))
      .map((title) => ({
        title: title || `no ${of} said`,
        list: shown.filter(({ m }) => m[of] === title).sort(named),
      }))
  })
  function key(event: KeyboardEvent) {
    if (event.key !== '/' || !isPlain(event)) return
    event.preventDefault()
    field?.focus()
  }
  const tick = (id: string, on: boolean) => (ticked = on ? [...ticked, id] : ticked.filter((x) => x !== id))
  const sorts = ['due', 'name', 'owner', 'place'] as const
  const today = $derived(`${p('/today')}?${ticked.map((id) => `machine=${id}`).join('&')}`)
</script>

<svelte:window onkeydown={key} />
<div class="tools">
  <input
    bind:this={field}
    class="find"
    bind:value={filter}
    placeholder="Filter: name, owner, place, job"
    aria-label="Filter the machines"
  />
  <div class="flex" role="group" aria-label="Sort by">
    {#each sorts as s (s)}<button type="button" class="pick" aria-pressed={sort === s} onclick={() => (sort = s)}
        >by {s}</button
      >{/each}
  </div>
  <span class="label-voice">{shown.length} of {machines.length} machines</span>
</div>
{#each groups as g (g.title)}
  {#if g.title}<h2 class="band-title" class:text-stop={g.title.startsWith('Unsafe')}>
      {g.title} <span class="label-voice">{g.list.length}</span>
    </h2>{/if}
  <ul class="border-ink border-t-2">
    {#each g.list as { m, at } (m.id)}
      <DenseLine
        bind:machine={machines[at]!}
        ticked={ticked.includes(m.id)}
        full={ticked.length >= most}
        ontick={(on) => tick(m.id, on)}
        {onchanged}
      />
    {/each}
  </ul>
{/each}
{#if ticked.length > 0}
  <div class="today">
    <span
      ><b>{ticked.length}</b>
      {ticked.length === 1 ? 'machine' : 'machines'} ticked{ticked.length >= most
        ? ', as many as are seen to in one go'
        : ''}</span
    >
    <button type="button" class="linked" onclick={() => (ticked = [])}>Untick all</button>
    <a class="btn btn-primary" href={today}>Today's order of work</a>
  </div>
{/if}

<style>
  .tools {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 10px 20px;
    padding: 14px 32px;
  }
  .find {
    width: min(340px, 100%);
  }
  .band-title {
    padding: 14px 32px 4px;
    font-stretch: 70%;
    font-weight: 700;
    font-size: 22px;
  }
  .today {
    position: sticky;
    bottom: 0;
    z-index: 1;
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 4px 24px;
    padding: 10px 32px;
    border-top: 2px solid var(--color-ink);
    background: var(--color-slip);
  }
  @media (max-width: 1000px) {
    .tools,
    .band-title,
    .today {
      padding-inline: 20px;
    }
  }
</style>
