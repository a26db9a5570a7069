<!-- How it cools, where somebody waits for it: asked for when it is opened. -->
<script lang="ts">
  import { ask, client, type Schemas } from '../../data/api'
  import { Act } from '../../data/resource.svelte'
  import Cooling from '../shared/Cooling.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  let { machine, zone, since }: { machine: string; zone: string; since: string } = $props()
  let life = $state<Schemas['BoilerLife']>()
  const act = new Act()

  async function open() {
    await act.try(async () => {
      life = await ask(client.GET('/machines/{machine_id}/boiler', { params: { path: { machine_id: machine } } }))
    })
  }
</script>

<details class="mt-2" ontoggle={(e) => e.currentTarget.open && !life && void open()}>
  <summary class="min-h-11 cursor-pointer py-2 text-[19px]"><b>How it cools</b></summary>
  <ProblemNote problem={act.problem} />
  {#if life}<Cooling {machine} version={life.version} cooling={life.cooling} {zone} {since} onkept={open} />{/if}
</details>
