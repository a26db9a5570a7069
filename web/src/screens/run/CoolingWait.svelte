<!-- How it cools, where somebody waits for it: asked for when it is opened. -->
<script lang="ts">
  import { ask, client, problemOf, type Problem, type Schemas } from '../../data/api'
  import Cooling from '../shared/Cooling.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  let { machine, zone, since }: { machine: string; zone: string; since: string } = $props()
  let life = $state<Schemas['BoilerLife']>()
  let problem = $state<Problem>()

  async function open() {
    try {
      life = await ask(client.GET('/machines/{machine_id}/boiler', { params: { path: { machine_id: machine } } }))
      problem = undefined
    } catch (error) {
      problem = problemOf(error)
    }
  }
</script>

<details class="mt-2" ontoggle={(e) => e.currentTarget.open && !life && void open()}>
  <summary class="min-h-11 cursor-pointer py-2 text-[19px]"><b>How it cools</b></summary>
  {#if problem}<ProblemNote {problem} />{/if}
  {#if life}<Cooling {machine} version={life.version} cooling={life.cooling} {zone} {since} onkept={open} />{/if}
</details>
