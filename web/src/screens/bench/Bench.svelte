<script lang="ts">
  import { ask, client, type Schemas } from '../../data/api'
  import { Resource } from '../../data/resource.svelte'
  import { MediaQuery } from 'svelte/reactivity'
  import Dense from './Dense.svelte'
  import Dock from './Dock.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { p } from '../../router'
  import Slip from './Slip.svelte'
  import { askBench, hazards } from '../../data/state.svelte'

  const page = new Resource<Schemas['Bench']>()
  const bench = $derived(page.value)
  const due = $derived(bench?.machines.filter((m) => m.next?.now && !m.open_run && m.hazards.length === 0) ?? [])
  const phone = new MediaQuery('max-width: 700px')
  const many = 6 // from here on a line each

  let archived = $state(false)
  async function load(anew = true) {
    const past = archived
    const got = await page.ask((signal) =>
      past ? ask(client.GET('/bench', { params: { query: { archived: past } }, signal })) : askBench(anew),
    )
    if (got && !past) hazards.list = got.machines.flatMap((m) => m.hazards)
  }
  $effect(() => {
    void archived
    document.title = 'Bench · Fresh Anvil'
    void load(false)
    const again = setInterval(() => load(), 60_000)
    return () => clearInterval(again)
  })
</script>

{#snippet together()}
  {#if due.length > 1}<p class="px-5 pt-1 md:px-8">
      {due.length} machines are due now.
      <a class="inline-flex min-h-11 items-center font-semibold underline underline-offset-4" href={p('/today')}
        >Do them in one go</a
      >
    </p>{/if}
{/snippet}
<div class="px-8"><ProblemNote problem={page.problem} /></div>
{#if archived}
  <p class="px-5 pt-5 md:px-8">
    <b>Archived machines.</b> Nothing of them is deleted.
    <button type="button" class="linked text-act" onclick={() => (archived = false)}>Back to the bench</button>
  </p>
  <ul class="px-5 md:px-8">
    {#each bench?.machines ?? [] as m (m.id)}<li class="border-rule border-b py-2">
        <a class="num-voice text-[21px] hover:underline" href={p('/machines/:id', { params: { id: m.id } })}
          >{m.name}</a
        >
      </li>{:else}<li>None.</li>{/each}
  </ul>
{:else if bench && bench.machines.length === 0}
  <section class="first">
    <h1 class="huge-voice text-[clamp(52px,9vw,120px)]">Five answers,<br />then one job.</h1>
    <p class="max-w-xl text-[20px]">
      Say how the machine is built, how much it is used and how hard the water is. You get the next job, how much of
      what, and a hand through it.
    </p>
    <a class="for-keeper btn btn-primary" href={p('/machines/new')}>Answer the five questions</a>
  </section>
{:else if bench && bench.machines.length >= many}
  <h1 class="sr-only">Bench</h1>
  {@render together()}
  <Dense bind:machines={bench.machines} onchanged={() => load()} />
{:else if bench}
  <h1 class="sr-only">Bench</h1>
  {@render together()}
  <div class="flex grow flex-col pt-1">
    {#each bench.machines as m, i (m.id)}
      <Slip
        bind:machine={bench.machines[i]!}
        generous={bench.machines.length === 1}
        docked={phone.current}
        onchanged={() => load()}
      />
    {/each}
  </div>
{/if}
{#if bench && !archived}
  <p class="mt-auto px-5 py-1 md:px-8 print:hidden">
    <button type="button" class="linked text-ink-2 narrow" onclick={() => (archived = true)}
      >See archived machines</button
    >
  </p>
{/if}

{#if bench && !archived && phone.current && bench.machines.length > 0 && bench.machines.length < many}<Dock
    bind:machines={bench.machines}
    onchanged={() => load()}
  />{/if}

<style>
  .first {
    display: grid;
    gap: 28px;
    justify-items: start;
    padding: clamp(40px, 9vh, 110px) clamp(20px, 5vw, 80px);
  }
</style>
