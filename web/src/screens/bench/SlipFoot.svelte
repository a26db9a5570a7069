<!-- What else is at hand beside the one job: the small ones, something wrong, a group from which no water comes. -->
<script lang="ts">
  import type { BenchMachine } from '../../data/api'
  import { groupOf, groupParts } from '../../ui/format'
  import { p } from '../../router'
  import SmallOnes from '../shared/SmallOnes.svelte'
  import StartWash from '../shared/StartWash.svelte'

  let { machine = $bindable(), onchanged }: { machine: BenchMachine; onchanged: () => void } = $props()
  const refused = $derived(machine.gate.verdict === 'refused')
  const link = 'text-ink-2 narrow inline-flex min-h-11 items-center text-[16px] underline underline-offset-4'
</script>

{#if machine.next}
  <div class="foot">
    {#if machine.small.length > 0}<SmallOnes
        {machine}
        onchanged={(m) => {
          machine = m
          onchanged()
        }}
      />{/if}
    <a class={link} href={p('/machines/:id/diagnose', { params: { id: machine.id } })}>Something is wrong</a>
    <a class={link} href={p('/machines/:id/walk', { params: { id: machine.id } })}>Walk round it</a>
    {#if !refused && !machine.laid_up}
      <details>
        <summary class="text-ink-2 narrow min-h-11 cursor-pointer py-2 text-[16px]"
          >No water comes from a group</summary
        >
        <p>
          Dried detergent, a coil, or a blocked jet. You are led from the least to the most, and told when to stop.
          Behind a handle that is locked in the water may be under pressure: leave it where it is.
        </p>
        {#each groupParts(machine.groups) as part (part)}
          {@const of = machine.groups > 1 ? `Group ${groupOf(part)}: the` : 'The'}
          <div class="mt-2 flex flex-wrap gap-3">
            {#each [true, false] as locked (locked)}<StartWash
                machine={machine.id}
                parts={[part]}
                task="unblock"
                more={{ locked_in: locked }}
                text="{of} handle is {locked ? 'locked in' : 'out'}"
                line
              />{/each}
          </div>
        {/each}
      </details>
    {/if}
  </div>
  {#if refused}
    <details class="caution mt-1">
      <summary class="cursor-pointer py-1"><b>{machine.gate.title}</b></summary>
      {#each machine.gate.because as r}<p>{r.text}</p>{/each}
      {#each machine.gate.next ?? [] as n}<p>{n}</p>{/each}
    </details>
  {/if}
{/if}

<style>
  .foot {
    display: flex;
    flex-wrap: wrap;
    align-items: start;
    gap: 0 24px;
  }
  .foot :global(details[open]) {
    flex-basis: 100%;
  }
</style>
