<!-- A supplier's report from a CSV file: looked at first, then all of it or none. -->
<script lang="ts">
  import { ask, client, newId, type Schemas } from '../../data/api'
  import { Act } from '../../data/resource.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  let {
    source,
    when,
    withSource,
    onkept,
  }: { source: string; when: string; withSource: () => Promise<void>; onkept: () => void } = $props()
  let text = $state('')
  let file = $state('')
  let report = $state<Schemas['Report']>()
  const act = new Act()

  const send = (preview: boolean) =>
    act.try(async () => {
      if (!preview) await withSource()
      const body = { id: newId(), taken: when, text, preview }
      report = await ask(
        client.POST('/waters/{source_id}/report', { params: { path: { source_id: source } }, body }),
      )
      if (report.kept) onkept()
    })
  async function look(event: Event) {
    const picked = (event.target as HTMLInputElement).files?.[0]
    if (!picked) return
    file = picked.name
    text = await picked.text()
    await send(true)
  }
</script>

<div>
  <p class="text-[16px]">
    Or the report as a CSV file, with the columns <b>parameter</b>, <b>value</b>, <b>unit</b>, such as
    <code>calcium,78,mg/L</code>.
  </p>
  <label class="file"
    >{file || 'Choose a CSV file'}<input
      class="sr-only"
      type="file"
      accept=".csv,text/csv,text/plain"
      onchange={look}
    /></label
  >
  {#if report}
    <div class="mt-2" role="status">
      {#if report.bad.length > 0}
        <p class="caution">
          <b>{report.bad.length} {report.bad.length === 1 ? 'line' : 'lines'} cannot be taken, so nothing is.</b>
        </p>
        <ul class="mt-1 text-[16px]">
          {#each report.bad as b, i (i)}<li>
              <b>{b.line ? `line ${b.line}` : 'the report'}</b>, {b.field}: {b.value}. Allowed: {b.allowed}.
            </li>{/each}
        </ul>
      {:else if !report.kept}
        <p>
          {report.said
            .map((s) => `${s.label} ${Math.round(s.value.likely * 100) / 100} ${s.unit}`.trim())
            .join(', ')}{report.passed ? `; ${report.passed} lines that do not matter here` : ''}.
        </p>
        <button type="button" class="btn btn-primary mt-2" onclick={() => send(false)}>Save the report</button>
      {/if}
    </div>
  {/if}
</div>
<ProblemNote problem={act.problem} />

<style>
  .file {
    display: inline-grid;
    place-items: center;
    min-height: 48px;
    margin-top: 6px;
    padding: 0 22px;
    border: 2px solid var(--color-act);
    color: var(--color-act);
    font-weight: 700;
    cursor: pointer;
  }
</style>
