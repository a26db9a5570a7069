<!-- Circuit by circuit: what it holds, its scale, its rinse, where it is proven. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import Num from '../../ui/Num.svelte'
  import { amount, round } from '../../ui/format'

  let { card, plan }: { card: Schemas['DescaleCard']; plan: Schemas['DescalePlan'] } = $props()
</script>

<div class="scroll" role="group" aria-label="Circuit by circuit" tabindex="-1">
  <table class="across">
    <thead
      ><tr class="label-voice"
        ><th>circuit</th><th class="n">it holds</th><th class="n">scale, likely</th><th class="n"
          >rinse, at least</th
        ><th>proven at</th></tr
      ></thead
    >
    <tbody>
      {#each plan.circuits as n (n.id)}
        <tr>
          <th scope="row"
            ><b class="num-voice text-[19px]">{n.title}</b>
            <div class="label-voice">{n.drained ? 'drained and refilled' : 'pushed through'}</div></th
          >
          <td class="n">{amount(n.holds_l, 'L')}</td>
          <td class="n">{amount(n.scale_g, 'g')}</td>
          <td class="n big"
            ><Num
              worked={n.least}
              text={n.least.unit === 'refills' ? `${round(n.least.value)} refills` : amount(n.least.value, 'L')}
            /></td
          >
          <td>{n.outlets.join(', ')}</td>
        </tr>
      {/each}
    </tbody>
  </table>
</div>
<p class="mt-2 max-w-4xl text-[16px]">
  {`Acid stands for about ${round(plan.contact_min)} of the ${round(plan.contact_most_min)} minutes that it may, `}
  warm minutes counted more.
  {plan.left_g > 0.1 && plan.solution
    ? `About ${amount(plan.left_g, 'g')} of the likely scale stays for another day.`
    : ''}
  Each circuit is clean when two strips in a row read what the clean water reads, within one step; a meter within 0.3.
</p>
{#if plan.cleared}<p class="text-ink-2 mt-1 max-w-4xl text-[15px]">{plan.cleared.text}</p>{/if}
{#each card.because as r}<p class="text-ink-2 mt-1 max-w-4xl text-[15px]">{r.text}</p>{/each}

<style>
  .scroll {
    overflow-x: auto;
  }
  .big {
    font-size: 24px;
  }
</style>
