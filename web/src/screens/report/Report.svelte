<!-- What is handed to an owner: found, done, proven, next, theirs to do. A PDF says the same; this page is the one that
     a screen reader reads. -->
<script lang="ts">
  import { ask, client, type Schemas } from '../../data/api'
  import { Resource } from '../../data/resource.svelte'
  import { p, route } from '../../router'
  import Elsewhere from '../../ui/Elsewhere.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import ReportMachine from './ReportMachine.svelte'

  const page = new Resource<Schemas['OwnerReport']>()
  const r = $derived(page.value)
  const machine = $derived((route.params as { id?: string }).id)
  const owner = $derived(new URLSearchParams(route.search as Record<string, string>).get('owner') ?? undefined)
  const asked = new URLSearchParams(location.search) // a link may say which days
  let from = $state(asked.get('from') ?? '')
  let to = $state(asked.get('to') ?? '')
  const query = $derived({
    ...(machine ? { machine_id: machine } : { owner }),
    ...(from && { from }),
    ...(to && { to }),
  })
  const whose = $derived(machine !== undefined || owner !== undefined)
  $effect(() => {
    const now = query
    if (!whose) return
    void page.ask((signal) => ask(client.GET('/report', { params: { query: now }, signal })))
  })
  $effect(() => {
    document.title = `${r?.title ?? 'Service report'}${r?.owner ? `, ${r.owner}` : ''} · Fresh Anvil`
  })
  const pdf = (paper: 'a4' | 'letter') =>
    `/api/report.pdf?${new URLSearchParams({ ...(query as Record<string, string>), paper })}`
  const year = $derived(Number(r?.made.slice(-4) ?? 0)) // the bench's, whatever this device shows
  function whole(of: number) {
    from = `${of}-01-01`
    to = of === year ? '' : `${of}-12-31`
  }
  const by = $derived([...new Set(r?.machines.flatMap((m) => m.by) ?? [])])
</script>

{#if !whose}<div class="px-5 md:px-8">
    <Elsewhere
      title="A report of which machine?"
      text="It says what was found and done there, and what comes next."
      to={(id) => p('/machines/:id/report', { params: { id } })}
    />
  </div>{:else}
  <div class="page">
    <aside class="print:hidden" aria-label="Which days, and how to take it along">
      <label class="field">First day <input type="date" bind:value={from} /></label>
      <label class="field">Last day <input type="date" bind:value={to} /></label>
      <div class="flex flex-wrap gap-x-5">
        <button type="button" class="linked" onclick={() => ((from = ''), (to = ''))}>The last visit</button>
        {#if year > 0}<button type="button" class="linked" onclick={() => whole(year)}>{year}</button>
          <button type="button" class="linked" onclick={() => whole(year - 1)}>{year - 1}</button>{/if}
      </div>
      <div class="grid gap-2">
        <a class="btn btn-primary" href={pdf('a4')} target="_blank" rel="noopener">Open as a PDF, A4</a>
        <a class="btn btn-outline btn-primary" href={pdf('letter')} target="_blank" rel="noopener">US letter</a>
        <button type="button" class="btn btn-outline" onclick={() => print()}>Print this page</button>
      </div>
      {#if machine && r?.owner}<a
          class="inline-block py-2 underline underline-offset-4"
          href="{p('/report')}?owner={encodeURIComponent(r.owner)}">All machines of {r.owner}</a
        >{/if}
    </aside>
    <article>
      <ProblemNote problem={page.problem} />
      {#if r}
        <h1 class="huge-voice text-[clamp(40px,6vw,68px)]">{r.title}</h1>
        <p class="mt-1 text-[19px]">{r.owner ? `For ${r.owner}. ` : ''}{r.period}</p>
        {#each r.machines as m (m.id)}<ReportMachine {m} />{/each}
        <div class="sign">
          <p>Who did the work{by.length > 0 ? `: ${by.join(', ')}` : ''}</p>
          <p>The owner, and the day</p>
        </div>
        <p class="label-voice mt-4">Written by Fresh Anvil on {r.made}.</p>
      {/if}
    </article>
  </div>{/if}

<style>
  @page {
    size: A4;
    margin: 14mm;
  }
  .page {
    display: grid;
    grid-template-columns: minmax(0, 820px) 240px;
    gap: 24px 56px;
    padding: 28px 32px 64px;
  }
  aside {
    grid-column: 2;
    grid-row: 1;
    display: grid;
    gap: 14px;
    align-content: start;
  }
  article {
    grid-column: 1;
    grid-row: 1;
    min-width: 0;
  }
  .sign {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 32px;
    margin-top: 64px;
    break-inside: avoid;
  }
  .sign p {
    padding-top: 4px;
    border-top: 1.5px solid var(--color-ink);
  }
  @media (max-width: 900px) {
    .page {
      grid-template-columns: minmax(0, 1fr);
      padding: 20px 20px 48px;
    }
    aside {
      grid-column: 1;
      grid-row: 2;
    }
  }
  @media print {
    .page {
      display: block;
      padding: 0;
    }
  }
</style>
