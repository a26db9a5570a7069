<!-- What the server refused, why, and what is allowed. -->
<script lang="ts">
  import type { Problem } from '../data/api'

  let { problem }: { problem: Problem | undefined } = $props()
  // where a field lies within the request is nothing a person needs to know
  const title = $derived(problem?.title.replace(/^(?:\w+\.)+(?=\w+ is not allowed)/, ''))
</script>

{#if problem}
  <div class="caution my-3" role="alert">
    <b>{title}.</b>
    {#if problem.field}You gave {problem.value || 'nothing'}. Allowed: {problem.allowed}.{/if}
    {#if problem.detail}{problem.detail}{/if}
    {#if problem.finding}
      {#each problem.finding.because as r}<p>{r.text}</p>{/each}
      {#each problem.finding.next ?? [] as n}<p>{n}</p>{/each}
    {/if}
  </div>
{/if}
