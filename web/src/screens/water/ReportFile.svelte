<!-- A supplier's report from a CSV file: looked at first, then all of it or none. -->
<script lang="ts">
  import { ask, client, newId, type Schemas } from '../../data/api'
  import { Act } from '../../data/resource.svelte'
  import BadLines from '../../ui/BadLines.svelte'
  import TableFile from '../../ui/TableFile.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  let {
    source,
    when,
    withSource,
    onkept,
  }: { source: string; when: string; withSource: () => Promise<void>; onkept: () => void } = $props()
  let text = $state('')
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
</script>

<div>
  <p class="text-[16px]">
    Or the report as a CSV file, with the columns <b>parameter</b>, <b>value</b>, <b>unit</b>, such as
    <code>calcium,78,mg/L</code>.
  </p>
  <TableFile
    kind="report"
    onpick={(read) => {
      text = read
      void send(true)
    }}
  />
  {#if report}
    <div class="mt-2" role="status">
      {#if report.bad.length > 0}
        <BadLines list={report.bad} />
      {:else if !report.kept}
        <p>
          {report.said
            .map((s) => `${s.label} ${Math.round(s.value.likely * 100) / 100} ${s.unit}`.trim())
            .join(', ')}{report.passed
            ? `; ${report.passed} ${report.passed === 1 ? 'line that does' : 'lines that do'} not matter here`
            : ''}.
        </p>
        <button type="button" class="btn btn-primary mt-2" onclick={() => send(false)}>Save the report</button>
      {/if}
    </div>
  {/if}
</div>
<ProblemNote problem={act.problem} />
