<!-- The few things that would change the answers most, and what it takes to find them out. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import type { Spot } from '../../ui/scheme'
  import { p } from '../../router'

  let {
    list,
    machine,
    onpick,
  }: { list: Schemas['Worth'][]; machine: string; onpick: (spot: Spot, fact: string) => void } = $props()
  const sentence = (t: string) => t.charAt(0).toUpperCase() + t.slice(1)
</script>

{#if list.length > 0}
  <h2 class="label-voice mt-5">Worth finding out</h2>
  <ol>
    {#each list as w, i (w.key)}
      <li>
        <span class="no huge-voice" aria-hidden="true">{i + 1}</span>
        <div>
          {#if w.spot}
            {@const spot = w.spot}
            <button type="button" class="what" onclick={() => onpick(spot, w.key)}>{sentence(w.label)}</button>
          {:else}
            <a class="what" href={p('/machines/:id/water', { params: { id: machine } })}>{sentence(w.label)}</a>
          {/if}
          <p>{sentence(w.says)}.</p>
          <p class="label-voice">{w.do}</p>
        </div>
      </li>
    {/each}
  </ol>
{/if}

<style>
  li {
    display: grid;
    grid-template-columns: 34px 1fr;
    padding: 8px 0;
    border-bottom: 1px solid var(--color-rule);
    line-height: 1.3;
  }
  .no {
    padding-top: 6px;
    font-size: 32px;
    color: var(--color-act);
  }
  .what {
    display: inline-flex;
    align-items: center;
    min-height: 44px;
    font-weight: 700;
    text-align: left;
    cursor: pointer;
    text-decoration: underline;
    text-underline-offset: 4px;
    text-decoration-thickness: 1px;
  }
</style>
