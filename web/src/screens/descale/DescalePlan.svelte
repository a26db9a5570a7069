<!-- The ways of descaling a machine, and what may be joined. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { source } from '../../ui/format'

  let {
    card,
    program = $bindable(),
    renew = $bindable(),
    wash = $bindable(),
  }: { card: Schemas['MachineDescale']; program: string | undefined; renew: boolean; wash: boolean } = $props()
  const chosen = $derived(card.plan?.program ?? program ?? card.programs[0]?.id)
  const renewals = { filter_change: 'with a new filter', regenerate: 'with the softener in salt' }
</script>

<section class="plan">
  <div>
    {#each card.programs as q (q.id)}
      <label class="way" class:picked={q.id === chosen}>
        <input
          type="radio"
          name="program"
          value={q.id}
          checked={q.id === chosen}
          onchange={() => (program = q.id)}
        />
        <span
          ><b class="num-voice text-[21px]">{q.title}</b><br />{q.pattern}.
          <span class="text-ink-2">{q.why} By {source(q.source)}.</span></span
        >
      </label>
    {/each}
    <div class="mt-3 flex flex-wrap gap-x-8">
      {#if card.renews}<label class="tick"
          ><input type="checkbox" bind:checked={renew} /> {renewals[card.renews]}</label
        >{/if}
      {#if card.washable}<label class="tick"
          ><input type="checkbox" bind:checked={wash} /> and a detergent wash after it</label
        >{/if}
    </div>
  </div>
</section>

<style>
  .plan {
    max-width: 760px;
  }
  .way {
    display: flex;
    gap: 14px;
    margin-top: 8px;
    padding: 10px 16px;
    border: 2px solid var(--color-rule);
    cursor: pointer;
  }
  .way.picked {
    border-color: var(--color-ink);
    background: var(--color-slip);
  }
</style>
