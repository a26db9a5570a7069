<!-- The bench for many machines: a line each, to filter and sort. -->
<script lang="ts">
  import { singleKeys } from '../../data/state.svelte'
  import type { BenchMachine } from '../../data/api'
  import Around from '../../ui/Around.svelte'
  import { again } from './bench'
  import { inWords, theMachine } from '../../ui/format'
  import { navigate, p } from '../../router'
  import Ruler from '../../ui/Ruler.svelte'
  import SmallOnes from '../shared/SmallOnes.svelte'
  import StartWash from '../shared/StartWash.svelte'
  import UseKeys from './UseKeys.svelte'

  let { machines = $bindable(), onchanged }: { machines: BenchMachine[]; onchanged: () => void } = $props()
  let filter = $state('')
  let sort = $state<'due' | 'name' | 'owner' | 'place'>('due')
  let open = $state<string>()
  let field = $state<HTMLInputElement>()
  const shown = $derived.by(() => {
    const words = filter.toLowerCase().split(/\s+/).filter(Boolean)
    const text = (m: BenchMachine) => `${m.name} ${m.owner} ${m.place} ${m.layout_title} ${m.next?.head ?? ''}`.toLowerCase()
    const list = machines.map((m, at) => ({ m, at })).filter(({ m }) => words.every((w) => text(m).includes(w)))
    const by = (a: BenchMachine, b: BenchMachine): number => {
      return (a[sort as 'name' | 'owner' | 'place'] || '\uffff').localeCompare(b[sort as 'name' | 'owner' | 'place'] || '\uffff') || a.name.localeCompare(b.name)
    }
    if (sort === 'due') return list // as the server has it
    return list.sort((a, b) => by(a.m, b.m))
  })
  function key(event: KeyboardEvent) {
    if (!singleKeys.on) return
    if (event.key !== '/' || (event.target as HTMLElement).closest('input, select, dialog[open]')) return
    event.preventDefault()
    field?.focus()
  }
  const sorts = ['due', 'name', 'owner', 'place'] as const
</script>

<svelte:window onkeydown={key} />
<div class="tools">
  <input bind:this={field} class="find" bind:value={filter} placeholder="Filter: name, owner, place, job" aria-label="Filter the machines" />
  <div class="flex" role="group" aria-label="Sort by">
    {#each sorts as s (s)}<button type="button" class="sort" aria-pressed={sort === s} onclick={() => (sort = s)}>by {s}</button>{/each}
  </div>
  <span class="label-voice">{shown.length} of {machines.length} machines</span>
</div>
<ul class="border-ink border-t-2">
  {#each shown as { m, at } (m.id)}
    {@const due = m.next}
    {@const dirty = m.hazards.some((h) => h.chemical !== 'pressure')}
    {@const sour = m.hazards.some((h) => h.chemical === 'acid')}
    {@const pressed = m.hazards.filter((h) => h.chemical === 'pressure')}
    <li class="line" class:now={m.hazards.length > 0 || m.open_run || due?.now}>
      <div class="min-w-0">
        <a class="num-voice text-[19px] hover:underline" href={p('/machines/:id', { params: { id: m.id } })}>{m.name}</a>
        <div class="label-voice truncate">{[m.owner, m.place].filter(Boolean).join(', ')}</div>
      </div>
      <div class="min-w-0">
        <b class="head" class:text-stop={dirty || due?.state === 'overdue'}>{m.open_run ? `${m.open_run.title}${m.open_run.unreadable ? '' : ' under way'}` : m.rescue ? m.rescue.title : sour ? 'Rinse the acid out' : pressed.length > 0 ? `Free ${inWords([pressed[0]!.part])}` : dirty ? 'Rinse the detergent out' : m.laid_up && due?.state === 'later' ? 'Laid up' : (due?.head ?? 'Nothing to do')}</b>
        <div class="label-voice truncate">
          {#if m.rescue}{m.rescue.next?.[0] ?? ''}{:else if sour}acid was left in: no drinks before{:else if pressed.length > 0}{pressed[0]!.text}{:else if dirty}detergent was left in {inWords(m.together)}: no drinks before{:else if due?.state === 'later'}{due.title.toLowerCase()} <Around {due} zone={m.zone} machine={m.id} />{:else}{due?.says}{/if}
        </div>
      </div>
      <div class="ruled">{#if due?.clock}<Ruler clock={due.clock} {due} zone={m.zone} machine={m.id} />{/if}</div>
      <div class="flex justify-end gap-2">
        <button type="button" class="small" aria-expanded={open === m.id} onclick={() => (open = open === m.id ? undefined : m.id)} aria-label="drinks of {m.name}">drinks</button>
        {#if m.open_run?.unreadable || (m.rescue && !m.open_run)}
          <a class="small act" href={p('/machines/:id', { params: { id: m.id } })}>see it</a>
        {:else if m.open_run}
          {@const run = m.open_run.id}
          <button type="button" class="small act" onclick={() => navigate('/machines/:id/runs/:run', { params: { id: m.id, run } })}>go back</button>
        {:else if sour}
          <div class="start"><StartWash machine={m.id} parts={[theMachine]} task="descale" text="rinse" /></div>
        {:else if pressed.length > 0}
          <div class="start"><StartWash machine={m.id} parts={[pressed[0]!.part]} task="unblock" text="free it" /></div>
        {:else if m.wash && (dirty || (due?.doses && due.state !== 'later'))}
          <div class="start"><StartWash machine={m.id} parts={m.together} text={dirty ? 'rinse' : 'wash'} /></div>
        {:else if due && due.state !== 'later'}
          <a class="small act" href={p('/machines/:id', { params: { id: m.id } })}>see it</a>
        {/if}
      </div>
      {#if open === m.id}
        <div class="stub">
          <UseKeys
            machine={m}
            onlogged={async (today) => {
              machines[at]!.today = today
              machines[at] = (await again(m.id)) ?? machines[at]!
              onchanged()
            }}
          />
          {#if m.small.length > 0 && !dirty}
            <SmallOnes
              machine={m}
              onchanged={(changed) => {
                machines[at] = changed
              }}
            />
          {/if}
        </div>
      {/if}
    </li>
  {/each}
</ul>

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
    height: 46px;
    padding: 0 14px;
    border: 1.5px solid var(--color-ink);
    background: var(--color-slip);
  }
  .find::placeholder {
    color: var(--color-ink-2);
    opacity: 1;
  }
  .sort {
    min-height: 46px;
    padding: 0 14px;
    border: 1.5px solid var(--color-ink);
    margin-left: -1.5px;
    font-stretch: 78%;
    font-weight: 600;
    cursor: pointer;
  }
  .sort[aria-pressed='true'] {
    background: var(--color-ink);
    color: var(--color-paper);
  }
  .line {
    display: grid;
    grid-template-columns: 250px minmax(0, 1fr) 330px 170px;
    gap: 4px 24px;
    align-items: center;
    padding: 6px 32px;
    background: var(--color-slip);
    border-bottom: 1px solid var(--color-rule);
  }
  .line.now {
    background: var(--color-act-soft);
  }
  .head {
    font-stretch: 75%;
    font-size: 19px;
    line-height: 1.1;
  }
  .small,
  .start :global(.btn) {
    min-height: 44px;
    padding: 4px 14px;
    font-size: 16px;
    font-weight: 600;
    font-stretch: 78%;
  }
  .small {
    border: 1.5px solid var(--color-ink);
    cursor: pointer;
  }
  .act {
    background: var(--color-act);
    border-color: var(--color-act);
    color: var(--color-primary-content);
  }
  .stub {
    grid-column: 1 / -1;
    max-width: 620px;
    padding-bottom: 10px;
  }
  @media (max-width: 1000px) {
    .tools,
    .line {
      padding-inline: 20px;
    }
    .line {
      grid-template-columns: minmax(0, 1fr) auto;
    }
    .ruled {
      grid-column: 1 / -1;
      grid-row: 3;
    }
    .line > :nth-child(2) {
      grid-column: 1 / -1;
      grid-row: 2;
    }
  }
</style>
