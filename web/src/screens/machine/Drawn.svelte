<!-- The machine as a drawing that is its form: each part says what is known of it, and opens to its facts. -->
<script lang="ts">
  import { MediaQuery } from 'svelte/reactivity'
  import type { Schemas } from '../../data/api'
  import MachineDrawing from '../../ui/MachineDrawing.svelte'
  import { geometry, type Spot } from '../../ui/scheme'
  import Facts from '../shared/Facts.svelte'

  let {
    glance,
    machine,
    version,
    picked = $bindable(),
    fact,
    onchanged,
  }: {
    glance: Schemas['Glance']
    machine: string
    version: number
    picked: Spot | undefined
    fact?: string
    onchanged: (m: Schemas['Machine']) => void
  } = $props()
  const parts = $derived(glance.parts.filter((x) => x.spot !== 'machine'))
  const g = $derived(geometry(glance.scheme))
  const unsure = $derived(parts.filter((x) => !x.known).map((x) => x.spot))
  const late = $derived(parts.filter((x) => x.late).map((x) => x.spot))
  const open = $derived(parts.find((x) => x.spot === picked))
  const tall = 440
  const narrow = new MediaQuery('max-width: 1100px')
  const pick = (spot: Spot) => (picked = picked === spot ? undefined : spot)
</script>

<div class="drawn">
  <div class="picture" style:--ratio="{g.width}/{tall}">
    <MachineDrawing scheme={glance.scheme} {unsure} {late} {picked} />
    <ul>
      {#each parts as x (x.spot)}
        {@const l = g.labels[x.spot]}
        {#if l}
          <li
            style:left="{(l.x / g.width) * 100}%"
            style:top="{(l.y / tall) * 100}%"
            style:width="{(l.w / g.width) * 100}%"
          >
            <button
              type="button"
              aria-expanded={picked === x.spot}
              class:late={x.late}
              onclick={() => pick(x.spot)}
            >
              <b>{x.title}</b>{#each x.lines.slice(0, 3) as t}<span>{t}</span>{/each}
            </button>
          </li>
        {/if}
      {/each}
    </ul>
  </div>
  <ul class="rows">
    {#each parts as x (x.spot)}
      <li>
        <button type="button" aria-expanded={picked === x.spot} class:late={x.late} onclick={() => pick(x.spot)}
          ><b class:unsure={!x.known}>{x.title}</b><span>{x.lines.join('; ')}</span></button
        >
        {#if narrow.current && picked === x.spot}{@render facts(x)}{/if}
      </li>
    {/each}
  </ul>
  {#if !narrow.current && open}<div class="panel" role="group" aria-label={open.title}>
      {@render facts(open)}
    </div>{/if}
  <p class="label-voice hint">Press a part to say more about it. What is dashed nobody has said yet.</p>
</div>

{#snippet facts(x: Schemas['PartGlance'])}
  {#if x.facts.length > 0}
    <h2 class="head-voice mt-2 text-[22px]">{x.title}</h2>
    {#key x.spot + fact}<Facts {machine} {version} facts={x.facts} start={fact} {onchanged} />{/key}
  {:else}
    <p class="py-2">What is known of it stands with the five answers.</p>
  {/if}
{/snippet}

<style>
  .picture {
    position: relative;
    aspect-ratio: var(--ratio);
    max-width: 900px;
  }
  .picture ul {
    position: absolute;
    inset: 0;
  }
  .picture li {
    position: absolute;
  }
  .picture button {
    display: grid;
    min-width: 44px;
    min-height: 44px;
    align-content: start;
    text-align: left;
    cursor: pointer;
    font-size: 15px;
    font-stretch: 78%;
    line-height: 1.2;
    padding: 1px 4px;
    margin: -1px -4px;
  }
  button:hover b,
  button[aria-expanded='true'] b {
    text-decoration: underline;
    text-underline-offset: 3px;
  }
  button[aria-expanded='true'] b {
    color: var(--color-act);
  }
  .late {
    color: var(--color-stop);
  }
  .rows {
    display: none;
    border-top: 2px solid var(--color-ink);
  }
  .rows li {
    border-bottom: 1px solid var(--color-rule);
  }
  .rows button {
    display: grid;
    grid-template-columns: 118px 1fr;
    gap: 10px;
    width: 100%;
    min-height: 46px;
    padding: 8px 0;
    text-align: left;
    cursor: pointer;
    font-size: 16px;
    line-height: 1.25;
    font-stretch: 88%;
  }
  .rows b {
    justify-self: start;
    align-self: start;
  }
  .rows .unsure {
    border-bottom: 2px dashed currentColor;
  }
  .panel {
    max-width: 760px;
    margin-top: 8px;
  }
  .hint {
    margin-top: 10px;
  }
  @media (max-width: 1100px) {
    .picture {
      aspect-ratio: auto;
    }
    .picture ul {
      display: none;
    }
    .rows {
      display: block;
      margin-top: 8px;
    }
  }
</style>
