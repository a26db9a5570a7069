<script lang="ts">
  import { ask, client, problemOf, type Problem, type Schemas } from '../lib/api'
  import ProblemNote from '../lib/ProblemNote.svelte'
  import { p } from '../lib/router'
  import Slip from '../lib/Slip.svelte'
  import { hazards } from '../lib/state.svelte'

  let bench = $state<Schemas['Bench']>()
  let problem = $state<Problem>()

  async function load() {
    try {
      bench = await ask(client.GET('/bench'))
      hazards.list = bench.machines.flatMap((m) => m.hazards)
      problem = undefined
    } catch (error) {
      problem = problemOf(error)
    }
  }
  $effect(() => {
    document.title = 'Bench · Fresh Anvil'
    void load()
    const again = setInterval(load, 60_000)
    return () => clearInterval(again)
  })
</script>

{#if problem}<div class="px-8"><ProblemNote {problem} /></div>{/if}
{#if bench && bench.machines.length === 0}
  <section class="first">
    <h1 class="huge-voice text-[clamp(52px,9vw,120px)]">Five answers,<br />then one job.</h1>
    <p class="max-w-xl text-[20px]">Say how the machine is built, how much it is used and how hard the water is. You get the next job, how much of what, and a hand through it.</p>
    <a class="btn btn-primary" href={p('/machines/new')}>Answer the five questions</a>
  </section>
{:else if bench}
  <h1 class="sr-only">Bench</h1>
  <div class="flex grow flex-col pt-4">
    {#each bench.machines as m, i (m.id)}
      <Slip bind:machine={bench.machines[i]!} generous={bench.machines.length === 1} onchanged={load} />
    {/each}
  </div>
{/if}

<style>
  .first {
    display: grid;
    gap: 28px;
    justify-items: start;
    padding: clamp(40px, 9vh, 110px) clamp(20px, 5vw, 80px);
  }
</style>
