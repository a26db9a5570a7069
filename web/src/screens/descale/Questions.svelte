<!-- What decides and nobody has said: what it is made of, whether it was ever descaled, and, these said, how large
     the jug is. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import DoneBefore from '../shared/DoneBefore.svelte'
  import QuickFact from './QuickFact.svelte'

  let { card, onchanged }: { card: Schemas['MachineDescale']; onchanged: () => void } = $props()
  const never = $derived(card.due?.state === 'unrecorded' && card.way !== 'treat_water')
  const asked = $derived(card.asks.length > 0 || never || card.jug !== undefined)
</script>

{#if asked}
  <section class="questions">
    <h2 class="head-voice text-[26px]">{card.plan ? 'Say this, and the plan fits better' : 'Say this first'}</h2>
    {#each card.asks as fact (fact.key)}<QuickFact
        machine={card.machine_id}
        version={card.version}
        {fact}
        {onchanged}
      />{/each}
    {#if never && card.due}
      <details class="mt-2">
        <summary class="min-h-11 cursor-pointer content-center font-semibold">When was it last descaled?</summary>
        <p class="mb-1 text-[15px]">
          Never, or nobody knows: leave it. It is then taken to hold as much scale as it may.
        </p>
        <DoneBefore machine={card.machine_id} due={card.due} onrecorded={onchanged} />
      </details>
    {/if}
    {#if card.jug && card.asks.length === 0}<QuickFact
        machine={card.machine_id}
        version={card.version}
        fact={card.jug}
        title="How much does your biggest jug or basin hold?"
        usual={[0.5, 1, 1.5, 2, 3, 5]}
        {onchanged}
      />{/if}
  </section>
{/if}

<style>
  .questions {
    margin-top: 18px;
    padding: 12px 18px 4px;
    border: 2px solid var(--color-act);
  }
  .questions:not(:has(> details)) {
    padding-bottom: 16px;
  }
</style>
