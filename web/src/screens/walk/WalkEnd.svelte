<!-- The state of a machine in pictures, to show to its owner: what wants something first, then what is as it should
     be. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { dated, groupOf } from '../../ui/format'
  import { p } from '../../router'
  import SightPicture from '../../ui/sights/SightPicture.svelte'

  let { walk, done = false }: { walk: Schemas['Walk']; done?: boolean } = $props()
  const looked = $derived(walk.cards.filter((c) => c.last))
  const wants = $derived(looked.filter((c) => c.last!.bad))
  const fine = $derived(looked.filter((c) => !c.last!.bad))
  const unseen = $derived(walk.cards.filter((c) => !c.last))
  const name = (c: Schemas['WalkCard']) =>
    c.title + (walk.groups > 1 && groupOf(c.part) > 0 ? `, group ${groupOf(c.part)}` : '')
</script>

{#snippet shown(c: Schemas['WalkCard'])}
  {@const l = c.last!}
  <li class:bad={l.bad}>
    <span class="drawn"><SightPicture sight={c.sight} verdict={l.verdict} /></span>
    <div>
      <b class="num-voice text-[19px]">{name(c)}</b>
      <p>
        {l.number !== undefined && c.measure
          ? `${l.number}${c.measure.unit === '°' ? '' : ' '}${c.measure.unit}: `
          : ''}{l.text}.{' '}{#if l.bad}<b>{l.do}.</b>{/if}
      </p>
      <p class="label-voice">{dated(l.at, walk.zone)}{c.worse ? ' · worse than before' : ''}</p>
    </div>
  </li>
{/snippet}

<p class="label-voice">
  {walk.machine_name}{walk.owner ? ` · ${walk.owner}` : ''}{walk.place ? ` · ${walk.place}` : ''}
</p>
<svelte:element this={done ? 'h1' : 'h2'} class="huge-voice text-[clamp(34px,5vw,60px)]"
  >{looked.length === 0
    ? 'Nothing was looked at'
    : wants.length === 0
      ? 'All that was looked at is as it should be'
      : wants.length === 1
        ? 'One thing wants something'
        : `${wants.length} things want something`}</svelte:element
>
{#if wants.length > 0}<ul class="state">
    {#each wants as c (c.sight + c.part)}{@render shown(c)}{/each}
  </ul>{/if}
{#if fine.length > 0}<svelte:element this={done ? 'h2' : 'h3'} class="label-voice mt-6"
    >As it should be</svelte:element
  >
  <ul class="state">
    {#each fine as c (c.sight + c.part)}{@render shown(c)}{/each}
  </ul>{/if}
{#if unseen.length > 0}<p class="mt-5 max-w-3xl">
    <b>Not looked at:</b>
    {unseen.map((c) => name(c).toLowerCase()).join(', ')}. What is not known is not taken as harmless.
  </p>{/if}
<div class="mt-6 flex flex-wrap gap-4 print:hidden">
  {#if done}<a class="btn btn-primary" href={p('/machines/:id', { params: { id: walk.machine_id } })}
      >To the machine: what comes next</a
    >{/if}
  <button type="button" class="btn btn-outline" onclick={() => print()}>Print it for the owner</button>
</div>

<style>
  .state {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(min(100%, 340px), 1fr));
    gap: 0 28px;
    margin-top: 10px;
    border-top: 2px solid var(--color-ink);
  }
  li {
    display: grid;
    grid-template-columns: 84px minmax(0, 1fr);
    gap: 14px;
    align-items: center;
    padding: 8px 0;
    border-bottom: 1px solid var(--color-rule);
    break-inside: avoid;
  }
  .bad .num-voice::before {
    content: '!';
    display: inline-block;
    width: 1.3em;
    margin-right: 0.4em;
    background: var(--color-ink);
    color: var(--color-paper);
    text-align: center;
  }
</style>
