<!-- What a look comes to: what to do, why, what it moves, and how it looked before. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { p } from '../../router'

  let {
    machine,
    judged,
    trend,
    worse,
  }: { machine: string; judged?: Schemas['LookJudged']; trend: string; worse: boolean } = $props()
</script>

<div aria-live="polite" class:stop={judged?.stops}>
  {#if judged}
    <h2 class="head-voice text-[34px]">{judged.finding.title}</h2>
    {#each judged.finding.because as r (r.text)}<p class="mt-1">{r.text}</p>{/each}
    {#each judged.finding.next ?? [] as text (text)}<p class="mt-1"><b>{text}</b></p>{/each}
    {#if judged.moves.length > 0 || judged.fit}
      <h3 class="label-voice mt-4">What it moves</h3>
      {#each judged.moves as text (text)}<p>{text}</p>{/each}
      {#if judged.fit}<p>To fit: {judged.fit}.</p>{/if}
    {/if}
    {#if judged.symptom}<a
        class="mt-2 inline-flex min-h-11 items-center underline underline-offset-4"
        href="{p('/machines/:id/diagnose', { params: { id: machine } })}?symptom={judged.symptom}"
        >Look for the cause</a
      >{/if}
  {:else}
    <p class="text-ink-2 max-md:hidden">
      Choose what is nearest: what follows from it stands here, before it is put on record.
    </p>
  {/if}
  {#if trend}
    <h2 class="label-voice mt-4">Looked at before</h2>
    <p>
      {trend}{' '}{#if worse}<b>It gets worse.</b>{/if}
    </p>
  {/if}
</div>

<style>
  .stop {
    margin: -10px -12px 0;
    padding: 10px 12px 12px;
    border: 6px solid var(--color-stop);
  }
  @media (max-width: 800px) {
    .stop {
      margin: 8px 16px 0;
      padding: 10px 12px 12px !important;
    }
  }
</style>
