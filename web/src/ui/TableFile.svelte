<!-- A table from a file, CSV or a workbook: one whose columns are named as ours is handed on at once, of another it is
     asked which column is which, with what its first rows become beside it. -->
<script lang="ts">
  import { ask, client, type Schemas } from '../data/api'
  import { Act } from '../data/resource.svelte'
  import ProblemNote from './ProblemNote.svelte'

  let { kind, onpick }: { kind: Schemas['NewGrid']['kind']; onpick: (text: string) => void } = $props()
  const act = new Act()
  let name = $state('')
  let file = ''
  let grid = $state<Schemas['Grid']>()
  let used = $state(false)
  const ways: Record<Schemas['GridDates'], string> = {
    iso: 'year first, 2026-03-10',
    dmy: 'day first, 10.3.2026',
    mdy: 'month first, 3/10/2026',
  }

  // what has a column, or needs one, and some more; what else there may be is folded
  const some = 8
  const first = $derived(
    grid?.fields.filter((f, i) => f.required || i < some || grid!.columns[f.field] !== undefined) ?? [],
  )
  const rest = $derived(grid?.fields.filter((f) => !first.includes(f)) ?? [])

  async function pick(input: HTMLInputElement) {
    const chosen = input.files?.[0]
    if (!chosen) return
    name = chosen.name
    used = false
    forget()
    const bytes = new Uint8Array(await chosen.arrayBuffer())
    let text = ''
    for (let i = 0; i < bytes.length; i += 0x8000) text += String.fromCharCode(...bytes.subarray(i, i + 0x8000))
    file = btoa(text)
    // one of ours goes on as it is, so that its lines keep their numbers
    if ((await read({})) && grid!.ours) take(await chosen.text())
    input.value = '' // the same file may be chosen again, once it is mended
  }
  // what was said of it stays said while something else is
  const said = (): Partial<Schemas['NewGrid']> => ({
    columns: grid!.columns,
    units: grid!.units,
    ...(grid!.sheet && { sheet: grid!.sheet }),
    ...(days && { dates: days }),
  })
  let days: Schemas['GridDates'] | undefined
  const read = (more: Partial<Schemas['NewGrid']>) =>
    act.try(async () => {
      grid = await ask(client.POST('/grids', { body: { kind, file, ...more } }))
    })
  function forget() {
    grid = undefined
    days = undefined
  }
  function take(text: string) {
    used = true
    onpick(text)
  }
  function map(field: string, column: string) {
    const columns = { ...grid!.columns }
    if (column === '') delete columns[field]
    else columns[field] = Number(column)
    const units = { ...grid!.units }
    delete units[field]
    void read({ ...said(), columns, units })
  }

  const rows = (n: number) => (n === 1 ? '1 row' : `${n} rows`)
</script>

{#snippet column(g: Schemas['Grid'], f: Schemas['GridField'])}
  <label class="field" class:missing={g.missing === f.field}
    >{f.title}{f.required ? ', needed' : ''}<select
      value={g.columns[f.field] ?? ''}
      onchange={(e) => map(f.field, e.currentTarget.value)}
      ><option value="">none</option>{#each g.head as head, i (i)}<option value={i}
          >{head || `column ${i + 1}`}: {g.sample
            .map((row) => row[i])
            .filter(Boolean)
            .slice(0, 2)
            .join(', ')}</option
        >{/each}</select
    ></label
  >
  {#if g.columns[f.field] !== undefined && f.units.length > 1}<label
      class="field"
      class:missing={g.no_unit === f.field}
      >{f.title} in<select
        value={g.units[f.field] ?? ''}
        onchange={(e) => read({ ...said(), units: { ...g.units, [f.field]: e.currentTarget.value } })}
        >{#if !g.units[f.field]}<option value="">say which</option>{/if}{#each f.units as u (u)}<option>{u}</option
          >{/each}</select
      ></label
    >{/if}
{/snippet}

<label class="btn btn-outline btn-primary"
  >{name || 'Choose a CSV file or a spreadsheet'}<input
    class="sr-only"
    type="file"
    accept=".csv,.txt,.xlsx,text/csv,text/plain"
    onchange={(e) => pick(e.currentTarget)}
  /></label
>
<ProblemNote problem={act.problem} />
{#if grid && !used}
  {@const g = grid}
  <div class="mapping">
    <p class="mb-2"><b>{rows(g.rows)}.</b> Say which column is which; what is left out is not read.</p>
    {#if g.sheets.length > 1}<label class="field"
        >Sheet<select value={g.sheet} onchange={(e) => read({ sheet: e.currentTarget.value })}
          >{#each g.sheets as s (s)}<option>{s}</option>{/each}</select
        ></label
      >{/if}
    <div class="flex flex-wrap gap-3">
      {#each first as f (f.field)}{@render column(g, f)}{/each}
      {#if g.columns['date'] !== undefined}<label class="field"
          >Days are written<select
            value={g.dates}
            onchange={(e) => {
              days = e.currentTarget.value as Schemas['GridDates']
              void read(said())
            }}
            >{#each Object.entries(ways) as [way, text] (way)}<option value={way}>{text}</option>{/each}</select
          ></label
        >{/if}
    </div>
    {#if rest.length > 0}<details class="mt-2">
        <summary class="min-h-11 cursor-pointer py-2">{rest.map((f) => f.title).join(', ')}</summary>
        <div class="flex flex-wrap gap-3">
          {#each rest as f (f.field)}{@render column(g, f)}{/each}
        </div>
      </details>{/if}
    {#if g.unsure && g.columns['date'] !== undefined}<p class="caution mt-3">
        <b>Its days can be read in two ways.</b> Look at the first rows below, and say how they are written.
      </p>{/if}
    {#if g.becomes.length > 1}
      <table class="becomes">
        <caption class="label-voice">Its first rows, as they are read</caption>
        <thead
          ><tr
            >{#each g.becomes[0]! as head (head)}<th scope="col"
                >{g.fields.find((f) => f.field === head)?.title ?? head}</th
              >{/each}</tr
          ></thead
        >
        <tbody
          >{#each g.becomes.slice(1) as row, i (i)}<tr
              >{#each row as cell, n (n)}<td>{cell}</td>{/each}</tr
            >{/each}</tbody
        >
      </table>
    {/if}
    {#if g.text}{@const text = g.text}<button type="button" class="btn btn-primary mt-3" onclick={() => take(text)}
        >Look at {g.rows === 1 ? 'it' : `all ${rows(g.rows)}`}</button
      >
    {:else if g.no_unit}<p class="mt-3">
        <b>In which unit is the {g.fields.find((f) => f.field === g.no_unit)?.title}?</b>
        Degrees are not taken for milligrams.
      </p>
    {:else if g.missing}<p class="mt-3">
        <b>One column is needed still: {g.fields.find((f) => f.field === g.missing)?.title}.</b>
      </p>{/if}
  </div>
{/if}

<style>
  .mapping {
    margin-top: 14px;
    max-width: 900px;
  }
  .mapping select {
    max-width: min(100%, 300px);
  }
  .missing {
    color: var(--color-stop);
  }
  .becomes {
    display: block;
    max-width: 100%;
    margin-top: 14px;
    overflow-x: auto;
    font-size: 15px;
  }
  .becomes caption {
    text-align: left;
  }
  .becomes th,
  .becomes td {
    padding: 4px 18px 4px 0;
    border-bottom: 1px solid var(--color-rule);
    text-align: left;
  }
</style>
