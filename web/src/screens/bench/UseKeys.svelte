<!-- The stub's keys: one press logs a drink; held, or a digit on the key, logs several. -->
<script lang="ts">
  import { ask, client, newId, type BenchMachine, type Schemas } from '../../data/api'
  import { Act } from '../../data/resource.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { figure, theMachine } from '../../ui/format'

  // docked under the thumb the keys are large, and what takes more than a press stands in words below them
  let {
    machine,
    docked = false,
    onlogged,
  }: { machine: BenchMachine; docked?: boolean; onlogged: (today: Schemas['Today']) => void } = $props()
  let times = $state(1)
  let panel = $state<'number' | 'party'>()
  let yesterday = $state(false)
  const counts = { number: [2, 3, 4, 5, 6, 8, 10, 12], party: [20, 30, 40, 60, 80, 100, 150, 200] }
  const act = new Act()
  let group = $state(0)
  let many = $state<(typeof kinds)[number]>()
  const kinds = ['single', 'double', 'milk', 'flush'] as const

  async function log(entry: Pick<Schemas['UseEntry'], 'kind' | 'supersedes' | 'count'>) {
    many = undefined
    await act.try(async () => {
      const at = new Date(Date.now() - (yesterday ? 864e5 : 0)).toISOString()
      const body = { id: newId(), at, part: group ? `group-${group}` : theMachine, ...entry }
      onlogged(
        await ask(
          client.POST('/machines/{machine_id}/use', { params: { path: { machine_id: machine.id } }, body }),
        ),
      )
      panel = undefined
      times = 1
      yesterday = false
    })
  }

  // a press that is held opens the numbers instead of logging one
  let timer: ReturnType<typeof setTimeout> | undefined
  let held = false
  function down(kind: (typeof kinds)[number]) {
    held = false
    clearTimeout(timer)
    timer = setTimeout(() => {
      held = true
      many = kind
    }, 500)
  }
  function press(kind: (typeof kinds)[number]) {
    clearTimeout(timer)
    if (!held) void log({ kind, ...(times > 1 && { count: times }) })
    held = false
  }
  function digit(event: KeyboardEvent, kind: (typeof kinds)[number]) {
    if (!/^[2-9]$/.test(event.key)) return
    event.preventDefault()
    void log({ kind, count: Number(event.key) })
  }
</script>

<div class="label-voice mt-2 flex flex-wrap items-baseline justify-between gap-x-3">
  <span>today {figure(machine.today.drinks)} {machine.today.drinks === 1 ? 'drink' : 'drinks'}</span>
  {#if machine.today.last_entry}
    {@const last = machine.today.last_entry}
    <button
      type="button"
      class="for-closer text-act cursor-pointer py-1 underline underline-offset-4"
      onclick={() => log({ kind: 'undo', supersedes: last })}>undo {machine.today.last_kind}</button
    >
  {/if}
</div>
<div class="for-closer">
  {#if machine.groups > 1}
    <div class="groups" role="group" aria-label="Which group of {machine.name}">
      {#each Array.from({ length: machine.groups + 1 }, (_, g) => g) as g (g)}
        <button type="button" aria-pressed={group === g} onclick={() => (group = g)}
          >{g === 0 ? 'all' : `group ${g}`}</button
        >
      {/each}
    </div>
  {/if}
  <div class="mt-1.5 flex" role="group" aria-label="Log use of {machine.name}">
    {#each kinds as kind (kind)}
      <button
        type="button"
        class="key"
        class:docked
        title="Hold for several; or a digit"
        onpointerdown={() => down(kind)}
        onpointerleave={() => {
          clearTimeout(timer)
          held = false
        }}
        oncontextmenu={(e) => e.preventDefault()}
        onclick={() => press(kind)}
        onkeydown={(e) => digit(e, kind)}
        >{times > 1 ? `${times} ` : ''}{docked && kind === 'milk' && times === 1 ? 'with milk' : kind}</button
      >
    {/each}
  </div>
  {#if docked}
    {#if panel}
      {@const which = panel}
      <div
        class="mt-1.5 flex"
        role="group"
        aria-label={which === 'party' ? 'A party: about how many?' : 'How many'}
      >
        {#each counts[which] as n (n)}<button
            type="button"
            class="key"
            aria-pressed={times === n}
            onclick={() => (times = n)}>{n}</button
          >{/each}
      </div>
    {/if}
    <div class="words">
      <button
        type="button"
        aria-expanded={panel === 'number'}
        onclick={() => {
          panel = panel === 'number' ? undefined : 'number'
          times = 1
        }}>+ a number</button
      >
      <button type="button" aria-pressed={yesterday} onclick={() => (yesterday = !yesterday)}
        >{yesterday ? 'of yesterday' : 'yesterday'}</button
      >
      <button
        type="button"
        aria-expanded={panel === 'party'}
        onclick={() => {
          panel = panel === 'party' ? undefined : 'party'
          times = 1
        }}>a party</button
      >
    </div>
  {/if}
  {#if many}
    {@const kind = many}
    <div class="mt-1.5 flex" role="group" aria-label="How many {kind}">
      {#each [2, 3, 4, 5, 6, 8, 10] as n}<button type="button" class="key" onclick={() => log({ kind, count: n })}
          >{n}</button
        >{/each}
      <button type="button" class="key" aria-label="none after all" onclick={() => (many = undefined)}>×</button>
    </div>
  {/if}
</div>
<ProblemNote problem={act.problem} />

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
    touch-action: manipulation;
    user-select: none;
  }
  .key.docked {
    min-height: 64px;
    font-size: 19px;
    font-weight: 700;
  }
  .key[aria-pressed='true'] {
    background: var(--color-ink);
    color: var(--color-paper);
  }
  .words {
    display: flex;
    justify-content: space-between;
  }
  .words button {
    min-height: 44px;
    padding: 0 4px;
    color: var(--color-act);
    font-stretch: 80%;
    text-decoration: underline;
    text-underline-offset: 4px;
    cursor: pointer;
  }
  .words button[aria-pressed='true'] {
    color: var(--color-ink);
    font-weight: 700;
    text-decoration: none;
  }
  .key:first-child {
    margin-left: 0;
  }
  .key:active {
    background: var(--color-ink);
    color: var(--color-paper);
  }
  .groups {
    display: flex;
    gap: 14px;
    font-size: 15px;
    font-stretch: 75%;
    font-weight: 600;
  }
  .groups button {
    min-height: 44px;
    border-bottom: 4px solid transparent;
    cursor: pointer;
  }
  .groups button[aria-pressed='true'] {
    border-color: var(--color-ink);
  }
</style>
