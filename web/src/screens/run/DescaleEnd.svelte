<!-- The end of a descale: what came out, what was learned, when each comes again. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import Around from '../../ui/Around.svelte'
  import { round, told, worked } from '../../ui/format'
  import Num from '../../ui/Num.svelte'

  let { run }: { run: Schemas['Run'] } = $props()
  const d = $derived(run.descale!)
  const left = $derived(d.circuits.filter((c) => c.in))
  const outcomes: Record<string, string> = {
    done: 'done',
    stopped: 'not done',
    stopped_unsafe: 'not done: acid is in',
  }
</script>

{#if left.length > 0}
  <p class="say">
    <b>Acid is in {run.inside.parts}.</b> No drinks from this machine until it is rinsed, or a technician has seen to
    it. Heater off, an outlet open; it is not left overnight.
  </p>
{:else if d.came}
  <p class="say">
    <b class="huge-voice text-[clamp(44px,6vw,84px)]"><Num worked={d.came} text={worked(d.came)} /></b> of scale
    came out{d.at_least ? ', at least' : ''}{d.came.low < d.came.high
      ? `; between ${told(d.came, d.came.low)} and ${told(d.came, d.came.high)} g`
      : ''}.
  </p>
  {#if d.share}<p class="say">
      Your machine scales {d.share.value < 1 ? 'less' : 'more'} than expected (<b
        ><Num worked={d.share} text="{round(d.share.value * 100)} %" /></b
      >).
    </p>{/if}
{/if}
{#if run.practice}
  <p class="say">Practice: nothing is written down.</p>
{:else}
  <ul class="errands">
    {#each run.activities as e (e.task + e.part)}
      <li>
        <b>{e.title}</b>: {outcomes[
          e.outcome
        ]}{#if e.outcome === 'done' && e.next?.days && e.next.state === 'later'}; next <Around
            due={e.next}
            zone={run.zone}
          />{/if}.
      </li>
    {/each}
  </ul>
  {#if d.says}<p class="text-[17px]">Written down: {d.says}</p>{/if}
  {#if run.after && left.length === 0}<p class="say">{run.after}</p>{/if}
{/if}

<style>
  .say {
    font-size: 24px;
    line-height: 1.3;
    max-width: 36em;
  }
  .errands {
    display: grid;
    gap: 6px;
    font-size: 21px;
  }
</style>
