<!-- A list of machines from a file: what each line becomes is shown first; all are kept, or none. -->
<script lang="ts">
  import { ask, client, type Schemas } from '../../data/api'
  import { Act } from '../../data/resource.svelte'
  import { p } from '../../router'
  import BadLines from '../../ui/BadLines.svelte'
  import TableFile from '../../ui/TableFile.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  let { zone }: { zone: string } = $props()
  let text = $state('')
  let taken = $state<Schemas['MachineListTaken']>()
  const act = new Act()

  async function send(preview: boolean) {
    await act.try(async () => {
      taken = await ask(client.POST('/machines-list', { body: { text, zone, preview } }))
    })
  }
</script>

<p class="mt-1 max-w-3xl text-[16px]">
  A CSV file whose first line names the columns: <b
    >owner, place, name, layout, valve, drinks, milk, hardness, unit, treatment, used</b
  >. A field left empty is as on the line before. Layouts: thermoblock, single_boiler, hx_home, hx_cafe, dual_home,
  multi_cafe, lever_cam, lever_manual.
</p>
<div class="mt-3">
  <TableFile
    kind="machines"
    onpick={(read) => {
      text = read
      void send(true)
    }}
  />
</div>
<ProblemNote problem={act.problem} />
{#if taken}
  <div class="mt-3" role="status">
    {#if taken.bad.length > 0}
      <BadLines list={taken.bad} />
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
