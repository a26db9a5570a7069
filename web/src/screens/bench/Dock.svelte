<!-- The drink keys under the thumb, on a phone: of the one machine, or of the one that was chosen last. -->
<script lang="ts">
  import type { BenchMachine } from '../../data/api'
  import { again } from './bench'
  import UseKeys from './UseKeys.svelte'

  let { machines = $bindable(), onchanged }: { machines: BenchMachine[]; onchanged: () => void } = $props()
  const kept = 'dock'
  let chosen = $state(localStorage.getItem(kept) ?? '')
  const at = $derived(
    Math.max(
      0,
      machines.findIndex((m) => m.id === chosen),
    ),
  )
  const machine = $derived(machines[at]!)

  function choose(id: string) {
    chosen = id
    localStorage.setItem(kept, id)
  }
  async function logged(today: BenchMachine['today']) {
    const of = at
    machines[of]!.today = today
    machines[of] = (await again(machine.id)) ?? machines[of]!
    onchanged()
  }
</script>

<aside class="for-closer thumb" aria-label="Log drinks">
  {#if machines.length > 1}
    <div class="names" role="group" aria-label="Of which machine">
      {#each machines as m (m.id)}<button
          type="button"
          aria-pressed={m.id === machine.id}
          onclick={() => choose(m.id)}>{m.name}</button
        >{/each}
    </div>
  {/if}
  {#key machine.id}<UseKeys {machine} docked onlogged={logged} />{/key}
</aside>

<style>
  .thumb {
    position: sticky;
    bottom: 0;
    z-index: 1;
    padding: 2px 12px calc(2px + env(safe-area-inset-bottom));
    border-top: 2px solid var(--color-ink);
    background: var(--color-slip);
  }
  .names {
    display: flex;
    gap: 16px;
    overflow-x: auto;
    scrollbar-width: none; /* the names run off the edge, which tells that there are more */
  }
  .names button {
    min-height: 44px;
    border-bottom: 4px solid transparent;
    font-stretch: 75%;
    font-weight: 600;
    white-space: nowrap;
    cursor: pointer;
  }
  .names button[aria-pressed='true'] {
    border-color: var(--color-ink);
  }
</style>
