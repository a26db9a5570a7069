<!-- Dated use from a CSV file: looked at first, then all of it or none. -->
<script lang="ts">
  import { ask, client, type Schemas } from '../../data/api'
  import { Resource } from '../../data/resource.svelte'
  import { round, weekday } from '../../ui/format'
  import BadLines from '../../ui/BadLines.svelte'
  import TableFile from '../../ui/TableFile.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  let { machine, zone, onkept }: { machine: string; zone: string; onkept: () => void } = $props()
  let text = $state('')
  const taken = new Resource<Schemas['Imported']>()

  let doing = $state<'read' | 'write'>()
  const far = new Resource<Schemas['Importing']>()

  async function send(preview: boolean) {
    const params = { path: { machine_id: machine } }
    doing = preview ? 'read' : 'write'
    far.show(undefined)
    const look = () => far.ask((signal) => ask(client.GET('/machines/{machine_id}/imports', { params, signal })))
    const watch = preview ? undefined : setInterval(() => void look(), 500)
    await taken.ask(() => ask(client.POST('/machines/{machine_id}/imports', { params, body: { text, preview } })))
    clearInterval(watch)
    doing = undefined
    if (taken.problem) taken.show(undefined)
    else if (taken.value?.kept) onkept()
  }
</script>

<p class="mb-2 max-w-2xl text-[16px]">
  A table with a line a day: <b>date</b>, then any of <b>drinks</b>, <b>single</b>, <b>double</b>, <b>milk</b>,
  <b>flush</b>, <b>counter</b>, and <b>group</b> if you like. Such as <code>date,double,milk</code> and below it
  <code>2026-03-10,14,9</code>.
</p>
<TableFile
  kind="use"
  onpick={(read) => {
    text = read
    void send(true)
  }}
/>
<details class="mt-2">
  <summary class="narrow min-h-11 cursor-pointer py-2">or paste it</summary>
  <textarea class="w-full p-2 text-[15px]" rows="5" bind:value={text} aria-label="The table"></textarea>
  <button type="button" class="btn btn-outline btn-primary" disabled={text.trim() === ''} onclick={() => send(true)}
    >Look at it</button
  >
</details>
<ProblemNote problem={taken.problem} />
{#if doing}
  <div class="mt-3 max-w-md">
    {#if doing === 'read'}<p role="status">The table is being read.</p>
    {:else if far.value?.going}
      <progress
        class="progress h-3 w-full"
        aria-label="Entries ready"
        max={far.value.entries}
        value={far.value.ready}
      ></progress>
      <p>
        {#if far.value.ready < far.value.entries}<b
            >{round(far.value.ready)} of {round(far.value.entries)} entries are ready.</b
          > Others can log meanwhile.
        {:else}<b>All {round(far.value.entries)} entries are ready, and are being saved.</b>{/if}
      </p>
    {:else}<p role="status">It is being written.</p>{/if}
  </div>
{:else if taken.value}
  {@const seen = taken.value}
  <div class="mt-3" role="status">
    {#if seen.bad.length > 0}
      <BadLines list={seen.bad} />
    {:else}
      <p>
        <b>{round(seen.drinks ?? 0)} drinks</b>{#if seen.from && seen.to}, {weekday(seen.from, zone)} to {weekday(
            seen.to,
            zone,
          )}{/if}: {round(seen.fresh)} new, {round(seen.changed)} corrected, {round(seen.same)} there already.
        {#if seen.by_hand > 0}{seen.by_hand === 1
            ? 'One was taken back or corrected by hand since an earlier file; it stays so.'
            : `${round(seen.by_hand)} were taken back or corrected by hand since an earlier file; they stay so.`}{/if}
        {#if seen.kept}<b>{seen.fresh + seen.changed > 0 ? 'Saved.' : 'Nothing changed.'}</b>{/if}
      </p>
      {#if !seen.kept}<button type="button" class="btn btn-primary mt-2" onclick={() => send(false)}
          >Save it all</button
        >{/if}
    {/if}
  </div>
{/if}
