<!-- How the database is kept: when it was last copied and read through, and how many copies there are. -->
<script lang="ts">
  import { ask, client, type Schemas } from '../../data/api'
  import { Resource } from '../../data/resource.svelte'
  import { figure, localZone, stamp } from '../../ui/format'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  const page = new Resource<Schemas['Kept']>()
  const kept = $derived(page.value)
  let keep = $state<number | null>(null)
  let busy = $state(false)

  $effect(() => void page.ask((signal) => ask(client.GET('/kept', { signal }))))
  $effect(() => {
    keep = kept?.keep ?? null
  })
  const change = (call: () => Promise<Schemas['Kept']>) => page.try(async () => page.show(await call()))
  async function copy() {
    busy = true
    await change(() => ask(client.POST('/kept/copies')))
    busy = false
  }
  const size = (bytes: number) => (bytes < 1e6 ? `${figure(bytes / 1e3)} kB` : `${figure(bytes / 1e6)} MB`)
</script>

<h2 class="head-voice text-[24px]">Copies</h2>
{#if kept}
  {@const newest = kept.copies[0]}
  {#if kept.damage}<div class="caution my-3" role="alert">
      <b>The database is damaged.</b>
      {kept.damage}. Stop the server, and put the newest copy back with freshanvil restore.
    </div>{/if}
  {#if kept.failed}<div class="caution my-3" role="alert">
      <b>The last copy failed{kept.tried ? `, ${stamp(kept.tried, localZone)}` : ''}.</b>
      {kept.failed}.
    </div>{/if}
  {#if kept.late}<div class="caution my-3" role="alert">
      <b>Copies are late.</b>
      The last night made none. Make one now, and see whether the server's clock is right.
    </div>{/if}
  <p class="max-w-2xl">
    {#if newest}<b>Last copied {stamp(newest.at, localZone)}</b>, {size(newest.bytes)}, and read back.
    {:else}<b>No copy yet.</b>{/if}
    {kept.keep > 0 ? 'One is made each night.' : 'None is made by itself.'}
    {#if kept.checked && !kept.damage}The database was read through {stamp(kept.checked, localZone)}, and is sound.{/if}
  </p>
  <form
    class="mt-3 flex flex-wrap items-end gap-3"
    onsubmit={(e) => {
      e.preventDefault()
      void change(() => ask(client.PUT('/kept', { body: { keep: keep ?? 0 } })))
    }}
  >
    <label class="field"
      >Copies that are kept<input
        class="w-32 text-[22px]"
        type="number"
        min="0"
        max="60"
        bind:value={keep}
      /></label
    >
    <button class="btn btn-outline btn-primary" disabled={keep === null || keep === kept.keep}>Save</button>
    <button type="button" class="btn btn-outline btn-primary" disabled={busy} onclick={copy}>Copy it now</button>
  </form>
  {#if kept.copies.length > 0}<details class="mt-3">
      <summary class="linked py-2">{kept.copies.length} in the folder {kept.folder}, beside the database</summary>
      <table class="sums max-w-xl">
        <tbody>
          {#each kept.copies as c (c.name)}<tr><th scope="row">{c.name}</th><td>{size(c.bytes)}</td></tr>{/each}
        </tbody>
      </table>
    </details>{/if}
  <p class="text-ink-2 mt-2 max-w-2xl text-[15px]">
    Copies on the same disk do not outlive it: take one away now and then. To put one back, stop the server and run
    freshanvil restore.
  </p>
{/if}
<ProblemNote problem={page.problem} />
