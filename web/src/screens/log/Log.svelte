<!-- What was done, a year at a time: by machine and month, task, owner, person and words; a sitting is one entry. -->
<script lang="ts">
  import { MediaQuery } from 'svelte/reactivity'
  import { ask, client, type Schemas } from '../../data/api'
  import { Resource } from '../../data/resource.svelte'
  import { during, listed } from '../../ui/format'
  import Around from '../../ui/Around.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { p, route } from '../../router'
  import Courses from './Courses.svelte'
  import LogBands from './LogBands.svelte'
  import LogSitting from './LogSitting.svelte'

  type Entry = Schemas['LogEntry']
  const page = new Resource<Schemas['Log']>()
  const log = $derived(page.value)
  const id = $derived((route.params as { id?: string }).id)
  const most = 60 // sittings that are shown before more are asked for

  let year = $state(new Date().getFullYear())
  let month = $state<number>()
  let task = $state('')
  let owner = $state('')
  let by = $state('')
  let text = $state('')
  let small = $state(false)
  let shown = $state(most)
  const wide = new MediaQuery('min-width: 601px') // on a phone what is less asked for is folded: the answer comes first
  let looked = false // an empty first year falls back to the newest with anything in it, once

  const load = async () => {
    const query = {
      year,
      limit: 5000,
      ...(small && { small }),
      ...(id && { machine_id: id }),
      ...(month && { month }),
      ...(task && { task: task as Schemas['Task'] }),
      ...(owner && { owner }),
      ...(by && { by }),
      ...(text.trim() && { text: text.trim() }),
    }
    const got = await page.ask((signal) => ask(client.GET('/log', { params: { query }, signal })))
    if (got && !looked && got.entries.length === 0 && got.years[0] && got.years[0] !== year) year = got.years[0]
    if (got) looked = true
  }
  $effect(() => {
    document.title = 'Log · Fresh Anvil'
    void [id, year, month, task, owner, by, small]
    shown = most
    void load()
  })
  // on paper, where the fields are not
  const chosen = $derived({
    month: month ? `${new Intl.DateTimeFormat('en-GB', { month: 'long' }).format(new Date(2000, month - 1))} ` : '',
    kinds: [
      task ? `only ${log?.tasks.find((t) => t.task === task)?.title.toLowerCase()}` : '',
      owner ? `of ${owner}` : '',
      by ? `by ${by}` : '',
      text.trim() ? `with the words “${text.trim()}”` : '',
    ].filter(Boolean),
  })
  let typing: ReturnType<typeof setTimeout> | undefined
  function typed() {
    clearTimeout(typing)
    typing = setTimeout(load, 250)
  }

  const sittings = $derived.by(() => {
    const list: Entry[][] = []
    for (const e of log?.entries ?? []) {
      const last = list.at(-1)
      if (last && last[0]!.sitting === e.sitting && last[0]!.taken_back === e.taken_back) last.push(e)
      else list.push([e])
    }
    return list
  })
  // what is on record can be taken back, and dated anew where no run knows better
  function correct(e: Entry, to?: string) {
    const path = { machine_id: e.machine_id, care_id: e.id }
    const params = { params: { path }, parseAs: 'text' as const }
    return page.change(
      () =>
        to
          ? ask(client.PATCH('/machines/{machine_id}/care/{care_id}', { ...params, body: { at: during(to) } }))
          : ask(client.DELETE('/machines/{machine_id}/care/{care_id}', params)),
      load,
    )
  }
  const filtered = $derived(!!(month || task || owner || by || text.trim()))
  function all() {
    month = undefined
    task = owner = by = text = ''
    void load()
  }
</script>

{#snippet rest(log: Schemas['Log'])}
  {#if !id && log.owners.length > 1}<label
      >Owner <select bind:value={owner}
        ><option value="">all</option>{#each log.owners as o (o)}<option>{o}</option>{/each}</select
      ></label
    >{/if}
  {#if log.people.length > 0 || by}<label
      >By <select bind:value={by}
        ><option value="">anybody</option>{#each log.people as x (x)}<option>{x}</option>{/each}</select
      ></label
    >{/if}
  <label class="grow">Words in it <input type="search" maxlength="80" bind:value={text} oninput={typed} /></label>
  <label class="tick"><input type="checkbox" bind:checked={small} /> with the small ones of the day</label>
{/snippet}

<div class="px-5 pt-7 pb-16 md:px-8">
  <div class="flex flex-wrap items-end justify-between gap-x-8 gap-y-2">
    <h1 class="huge-voice text-[clamp(40px,5vw,64px)]">
      Log{#if id && log?.machines[0]}, {log.machines[0].name}{/if}
    </h1>
    {#if id}<a class="py-2 underline underline-offset-4" href={p('/machines/:id/report', { params: { id } })}
        >Report for the owner</a
      >{/if}
  </div>
  <ProblemNote problem={page.problem} />
  {#if id && log?.machines[0]?.next}
    {@const m = log.machines[0]}
    {@const next = m.next!}
    <p class="mt-2">
      {#if next.state === 'overdue'}<span class="text-stop font-bold">{next.title} is overdue.</span>
      {:else if next.state === 'unrecorded'}{next.title}: nothing on record.
      {:else}next: {next.title.toLowerCase()}, <Around due={next} zone={m.zone} machine={m.id} />{/if}
    </p>
  {/if}
  {#if log}
    <p class="hidden text-[19px] print:block">
      {chosen.month}{year}{#if chosen.kinds.length > 0}, {listed(chosen.kinds)}{/if}{sittings.length > shown
        ? `: the newest ${shown} of ${sittings.length}`
        : ''}.
    </p>
    <div class="filters print:hidden">
      <label
        >Year <select bind:value={year}
          >{#each log.years.includes(year) ? log.years : [year, ...log.years] as y (y)}<option value={y}>{y}</option
            >{/each}</select
        ></label
      >
      <label
        >Task <select bind:value={task}
          ><option value="">all</option>{#each log.tasks as t (t.task)}<option value={t.task}>{t.title}</option
            >{/each}</select
        ></label
      >
      {#if wide.current}{@render rest(log)}
      {:else}<details class="more">
          <summary>Narrow it down</summary>
          <div class="filters">{@render rest(log)}</div>
        </details>{/if}
    </div>
    <LogBands bands={log.bands} {year} bind:month />
    {#if filtered}<p class="mt-2">
        <button type="button" class="linked" onclick={all}>Show all of {year}</button>
      </p>{/if}
    {#if sittings.length === 0}
      <p class="mt-8 text-[20px]">
        {log.years.length === 0
          ? 'Nothing is on record yet. A wash that is led through writes itself down here.'
          : filtered
            ? 'Nothing of that kind is on record.'
            : `Nothing is on record of ${year}.`}
      </p>
    {:else}
      <ol class="border-ink mt-4 border-t-2">
        {#each sittings.slice(0, shown) as lines (lines[0]!.id)}<LogSitting
            {lines}
            single={id !== undefined}
            oncorrect={correct}
          />{/each}
      </ol>
      {#if sittings.length > shown}<button
          type="button"
          class="btn btn-outline btn-primary mt-4"
          onclick={() => (shown += most * 4)}>Show more of {sittings.length}</button
        >{/if}
    {/if}
    {#if id}{#key id}<Courses machine={id} />{/key}{/if}
  {/if}
</div>

<style>
  .filters {
    display: flex;
    flex-wrap: wrap;
    align-items: end;
    gap: 6px 18px;
    margin: 14px 0 16px;
  }
  .filters label:not(.tick) {
    display: grid;
    font-stretch: 80%;
    font-size: 15px;
    color: var(--color-ink-2);
  }
  .filters :global(select),
  .filters input[type='search'] {
    min-height: 44px;
    max-width: 100%;
    padding: 0 10px;
    border: 1.5px solid var(--color-ink);
    color: var(--color-ink);
    font-size: 17px;
  }
  .grow {
    flex: 1 1 200px;
    max-width: 340px;
  }
  .more {
    flex: 1 1 100%;
  }
  .more summary {
    min-height: 44px;
    padding: 10px 0;
    cursor: pointer;
  }
  @media (max-width: 600px) {
    .filters > label:not(.tick) {
      flex: 1 1 40%;
      max-width: none;
      min-width: 0;
    }
    .filters > label:not(.tick) > :global(*) {
      width: 100%;
    }
  }
</style>
