<!-- What to do in a step, line by line, and its dangers. In few words it is one paragraph, and each danger its first
     sentence. -->
<script lang="ts">
  import Cautions from '../../ui/Cautions.svelte'
  import Num from '../../ui/Num.svelte'
  import { round } from '../../ui/format'
  import type { Stage } from './stage.svelte'

  let { s, only = 'all' }: { s: Stage; only?: 'all' | 'dangers' } = $props()
  const step = $derived(s.step!)
</script>

{#if only === 'all'}
  {#if s.brief}
    <p class="brief">
      {step.do.join(' ')}{#if step.length && step.kind === 'sips'}{' '}Each stands <Num
          worked={step.length}
          text="{round(step.length.value)} seconds"
        />.{:else if step.length && s.pushing}{' '}The pump runs <Num
          worked={step.length}
          text="{round(step.length.value)} seconds"
        />.{/if}{#if step.flush}{' '}Flush for <Num worked={step.flush} text="{step.flush.value} seconds" />.{/if}
    </p>
  {:else}
    <ol class="say do">
      {#each step.do as d (d)}<li>{d}</li>{/each}
      {#if step.length && step.kind === 'sips'}<li>
          {step.pulses === 1 ? 'It stands' : `${step.pulses} sips. Each stands`}
          <b><Num worked={step.length} text="{round(step.length.value)} seconds" /></b>.
        </li>
      {:else if step.length && s.pushing}<li>
          The pump runs <b><Num worked={step.length} text="{round(step.length.value)} seconds" /></b>, rests apart.
        </li>{/if}
      {#if step.flush}<li>
          Flush into the tray for about <b><Num worked={step.flush} text="{step.flush.value} seconds" /></b>.
        </li>{/if}
    </ol>
  {/if}
{:else}
  <div class="cautions"><Cautions list={step.cautions} /></div>
{/if}

<style>
  .brief {
    max-width: 40em;
    font-size: 19px;
    line-height: 1.35;
  }
</style>
