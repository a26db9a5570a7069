<!-- What became of the nights before: seen, not scored. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { weekday } from '../../ui/format'

  let { nights, zone }: { nights: Schemas['Night'][]; zone: string } = $props()
  const words = { closed: 'closed', part: 'in part', nobody: 'nobody closed', idle: 'no drinks' }
  const oldest = $derived([...nights].reverse())
  const told = $derived(nights.filter((n) => n.state === 'nobody' || n.state === 'part'))
</script>

<ol class="strip" aria-label="The last {nights.length} nights, oldest first">
  {#each oldest as n (n.day)}
    <li class={n.state}><span class="sr-only">{weekday(n.day, zone)}: {words[n.state]}</span></li>
  {/each}
</ol>
<p class="label-voice flex justify-between">
  <span>{oldest[0] ? weekday(oldest[0].day, zone) : ''}</span><span>last night</span>
</p>
{#each told as n (n.day)}
  <p class="mt-2 text-[16px]">
    <b>{weekday(n.day, zone)}</b>: {n.state === 'nobody'
      ? 'nobody closed.'
      : `not done: ${n.missing.map((m) => m.toLowerCase()).join(', ')}.`}
  </p>
{/each}
{#if told.length === 0}<p class="mt-2 text-[16px]">Every night was closed.</p>{/if}

<style>
  .strip {
    display: grid;
    grid-auto-flow: column;
    grid-auto-columns: 1fr;
    gap: 3px;
    margin: 8px 0 4px;
  }
  .strip li {
    height: 34px;
    border: 1.5px solid var(--color-ink);
  }
  .closed {
    background: var(--color-ink);
  }
  .part {
    background: repeating-linear-gradient(45deg, var(--color-ink) 0 2px, transparent 2px 6px);
  }
  .strip .idle {
    border-style: none none solid;
    border-color: var(--color-rule);
  }
</style>
