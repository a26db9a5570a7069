<!-- What is on record, to be taken away as files that other programs read. -->
<script lang="ts">
  let { everything }: { everything: boolean } = $props()
  const tables = [
    ['log', 'what was done'],
    ['use', 'drinks and water'],
    ['readings', 'of water'],
    ['findings', 'what was seen of parts'],
  ] as const
</script>

<h2 class="head-voice text-[24px]">Take the record away</h2>
<div class="mt-2 flex flex-wrap gap-3">
  {#if everything}<a class="btn btn-primary" href="/api/export.json" download>Everything, as JSON</a>{/if}
  <a class="btn btn-outline btn-primary" href="/api/export.xlsx" download>As a spreadsheet</a>
</div>
<p class="mt-2">Or one table as CSV:</p>
<ul class="flex flex-wrap gap-x-6">
  {#each tables as [name, what] (name)}<li>
      <a class="linked inline-block py-2" href="/api/tables/{name}.csv" download>{name}</a>, {what}
    </li>{/each}
</ul>
<p class="label-voice">
  {#if everything}The JSON follows <a class="underline" href="/api/schema.json">a schema</a> and comes back without
    loss by <code>freshanvil import</code>.{/if}
  Passphrases, logins, calendar addresses and reminders stay out.
</p>
