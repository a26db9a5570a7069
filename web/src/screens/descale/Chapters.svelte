<!-- The steps of a descale, a line for each stretch of work; each opens to its steps. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { lasting } from '../../ui/format'

  let { plan }: { plan: Schemas['DescalePlan'] } = $props()
</script>

<h2 class="head-voice mb-1 text-[22px]">How it goes, in {plan.steps} steps</h2>
<ol class="chapters">
  {#each plan.chapters as c, i (c.title)}
    <li>
      <details class="told">
        <summary
          ><span><b>{i + 1}</b> {c.title}</span><span class="label-voice"
            >{c.lines.length} {c.lines.length === 1 ? 'step' : 'steps'}, {lasting(Math.max(1, c.minutes))}</span
          ></summary
        >
        <ol class="told-steps">
          {#each c.lines as l (l.id)}<li>{l.title}</li>{/each}
        </ol>
      </details>
    </li>
  {/each}
</ol>

<style>
  summary {
    display: flex;
    justify-content: space-between;
    align-items: center;
    gap: 16px;
    min-height: 44px;
    border-top: 1px solid var(--color-rule);
    cursor: pointer;
    font-size: 19px;
  }
  summary b {
    display: inline-block;
    min-width: 1.2em;
  }
  .told-steps {
    padding: 2px 0 12px 2.4em;
    list-style: disc;
    font-size: 16px;
  }
  .told-steps li::first-letter {
    text-transform: uppercase; /* the plan's lines are written to stand in a sentence, too */
  }
  @media print {
    .chapters {
      columns: 2;
      column-gap: 28px;
    }
    .chapters > li {
      break-inside: avoid;
    }
    summary {
      min-height: 0;
      font-size: 15px;
    }
    .told-steps {
      padding: 0 0 6px 2em;
      font-size: 13px;
    }
  }
</style>
