<!-- A list of machines from a file: what each line becomes is shown first; all are kept, or none. -->
<script lang="ts">
  import { ask, client, type Schemas } from '../../data/api'
  import { Act } from '../../data/resource.svelte'
  import { p } from '../../router'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  let { zone }: { zone: string } = $props()
  let file = $state('')
  let text = $state('')
  let taken = $state<Schemas['MachineListTaken']>()
  const act = new Act()

  async function send(preview: boolean) {
    await act.try(async () => {
      taken = await ask(client.POST('/machines-list', { body: { text, zone, preview } }))
    })
  }
  async function look(picked: File | undefined) {
    if (!picked) return
    file = picked.name
    text = await picked.text()
    await send(true)
  }
</script>

<p class="mt-1 max-w-3xl text-[16px]">
  A CSV file whose first line names the columns: <b
    >owner, place, name, layout, valve, drinks, milk, hardness, unit, treatment, used</b
  >. A field left empty is as on the line before. Layouts: thermoblock, single_boiler, hx_home, hx_cafe, dual_home,
  multi_cafe, lever_cam, lever_manual.
</p>
<label class="btn btn-outline btn-primary mt-3"
  >{file || 'Choose a CSV file'}<input
    class="sr-only"
    type="file"
    accept=".csv,text/csv,text/plain"
    onchange={(e) => look(e.currentTarget.files?.[0])}
  /></label
>
<ProblemNote problem={act.problem} />
{#if taken}
  <div class="mt-3" role="status">
    {#if taken.bad.length > 0}
      <p class="caution">
        <b>{taken.bad.length} {taken.bad.length === 1 ? 'line' : 'lines'} cannot be taken, so nothing is.</b>
      </p>
      <ul class="mt-1 text-[16px]">
        {#each taken.bad as b, i (i)}<li>
            <b>line {b.line}</b>, {b.field}: {b.value || 'nothing'}. Allowed: {b.allowed}.
          </li>{/each}
      </ul>
    {:else if taken.kept}
      <p>
        <b
          >{taken.same === taken.machines.length
            ? 'Nothing changed: they are there already.'
            : `${taken.machines.length - taken.same} kept.`}</b
        > <a class="underline underline-offset-4" href={p('/')}>To the bench</a>
      </p>
    {:else}
      <ol>
        {#each taken.machines as m (m.line)}<li class="border-rule border-b py-1">
            {[m.owner, m.place, m.name].filter(Boolean).join(', ')}
            <span class="label-voice">{m.layout_title}</span>
          </li>{/each}
      </ol>
      <button type="button" class="btn btn-primary mt-3" onclick={() => send(false)}
        >Save all {taken.machines.length}</button
      >
    {/if}
  </div>
{/if}
