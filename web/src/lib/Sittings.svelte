<!-- What is done together in the next months, in the order of work, and why. -->
<script lang="ts">
  import type { Schemas } from './api'
  import { day, groupOf, round } from './format'

  let { list, zone, groups }: { list: Schemas['SittingShown'][]; zone: string; groups: number } = $props()
  let all = $state(false)
  const shown = $derived(all ? list : list.slice(0, 4))
</script>

<ol class="border-ink border-t-2">
  {#each shown as s (s.at)}
    <li class="sitting">
      <div><b class="num-voice text-[21px]">{s.now ? 'Now' : day(s.at, zone)}</b><span class="label-voice block">{round(s.minutes)} min{s.members.length > 1 ? `, ${round(s.alone)} one by one` : ''}</span></div>
      <ul>
        {#each s.members as m (m.task + m.part)}
          <li><b>{m.title}{groups > 1 && groupOf(m.part) > 0 ? `, group ${groupOf(m.part)}` : ''}</b>{#if m.because.text !== 'Due.'}{' '}<span class="label-voice">{m.because.text}</span>{/if}</li>
        {/each}
      </ul>
    </li>
  {/each}
</ol>
{#if list.length > 4}<button type="button" class="mt-2 min-h-11 cursor-pointer underline underline-offset-4" onclick={() => (all = !all)}>{all ? 'Fewer' : `All ${list.length} of the next three months`}</button>{/if}

<style>
  .sitting {
    display: grid;
    grid-template-columns: 150px 1fr;
    gap: 4px 16px;
    padding: 8px 0;
    border-bottom: 1px solid var(--color-rule);
  }
  @media (max-width: 500px) {
    .sitting {
      grid-template-columns: 1fr;
    }
  }
</style>
