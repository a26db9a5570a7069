<!-- Where the water of a day goes, and what renews its treatment. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import Num from '../../ui/Num.svelte'
  import Ruler from '../../ui/Ruler.svelte'
  import { amount, day, range, theMachine } from '../../ui/format'
  import DoneBefore from '../shared/DoneBefore.svelte'
  import StartWash from '../shared/StartWash.svelte'

  let { w, onrecorded }: { w: Schemas['WaterAtWork']; onrecorded: () => void } = $props()
</script>

<table class="sums">
  <tbody>
    {#each w.litres as l, i (l.name)}
      <tr class:sum={i === w.litres.length - 1}
        ><th scope="row">{l.name}</th><td><Num worked={l} text={amount(l.value, 'L')} /></td></tr
      >
    {/each}
  </tbody>
</table>
<p class="text-ink-2 text-[15px]">
  a day{w.through_l > 0 ? `; ${amount(w.through_l, 'L')} since the last descale` : ''}.
</p>
{#if w.renew}
  {@const renew = w.renew}
  <div class="border-rule mt-4 border-t pt-2">
    <h3 class="head-voice text-[22px]" class:text-act={renew.now}>{renew.title}</h3>
    <p>
      {renew.state === 'later'
        ? `Around ${day(renew.likely, w.zone)}${range(renew, w.zone) ? ` (${range(renew, w.zone)})` : ''}.`
        : renew.says}
    </p>
    <div class="my-2 grid gap-1">
      {#each renew.clocks as c (c.kind)}<Ruler clock={c} due={renew} zone={w.zone} />{/each}
    </div>
    <div class="grid gap-2">
      <StartWash
        machine={w.machine_id}
        parts={[theMachine]}
        task={renew.task as Schemas['NewRun']['task']}
        text="Lead me"
        line={!renew.now}
      /><DoneBefore machine={w.machine_id} due={renew} {onrecorded} />
    </div>
  </div>
{/if}

<style>
  .sum th {
    font-weight: 700;
  }
</style>
