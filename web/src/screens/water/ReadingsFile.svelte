<!-- What was read of a source over the years, from a table: looked at first, then all of it or none. -->
<script lang="ts">
  import { ask, client, type Schemas } from '../../data/api'
  import { Act } from '../../data/resource.svelte'
  import { dated, figure, localZone } from '../../ui/format'
  import BadLines from '../../ui/BadLines.svelte'
  import TableFile from '../../ui/TableFile.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  let { source, withSource, onkept }: { source: string; withSource: () => Promise<void>; onkept: () => void } =
    $props()
  const few = 8
  let text = $state('')
  let taken = $state<Schemas['ReadingsTaken']>()
  const act = new Act()

  const send = (preview: boolean) =>
    act.try(async () => {
      if (!preview) await withSource()
      const body = { text, zone: localZone, preview }
      const params = { path: { source_id: source } }
      taken = await ask(client.POST('/waters/{source_id}/readings-list', { params, body }))
      if (taken.kept) onkept()
    })
  const many = (n: number) => `${figure(n)} new ${n === 1 ? 'reading' : 'readings'}`
  const told = (r: Schemas['ReadingTaken']) =>
    r.said.map((s) => `${s.label} ${spanned(s.value)} ${s.unit}`.trim()).join(', ')
  const spanned = (v: Schemas['ReadingOut']) =>
    v.low < v.high ? `${figure(v.low)} to ${figure(v.high)}` : figure(v.likely)
</script>

<p class="text-[16px]">
  A line a day: <b>date</b>, <b>how</b> it was read (strip, drops, meter or report), and what was read, each with
  its unit behind its name, such as <code>date,how,hardness °dH,pH</code> and below it
  <code>2026-03-10,drops,14,7.4</code>.
</p>
<TableFile
  kind="readings"
  onpick={(read) => {
    text = read
    void send(true)
  }}
/>
<ProblemNote problem={act.problem} />
{#if taken}
  <div class="mt-2" role="status">
    {#if taken.bad.length > 0}
      <BadLines list={taken.bad} />
    {:else}
      <p>
        <b>{many(taken.fresh)}</b>, {figure(taken.same)} there already.
        {#if taken.kept}<b>{taken.fresh > 0 ? 'Saved.' : 'Nothing changed.'}</b>{/if}
      </p>
      {#if !taken.kept}
        <ul class="mt-1 text-[16px]">
          {#each taken.readings.slice(0, few) as r, i (i)}<li>
              <b>{dated(r.taken, localZone)}</b>, by {r.how}: {told(r)}.
            </li>{/each}
        </ul>
        {#if taken.readings.length > few}<p>and {figure(taken.readings.length - few)} more.</p>{/if}
        <button type="button" class="btn btn-primary mt-2" onclick={() => send(false)}>Save all readings</button>
      {/if}
    {/if}
  </div>
{/if}
