<!-- What the server refused, why, and what is allowed; what was probably meant is a key. -->
<script lang="ts">
  import type { Problem, Schemas } from '../data/api'

  type Meant = Schemas['Meant']
  let { problem, take }: { problem: Problem | undefined; take?: (m: Meant, field: string) => void } = $props()
</script>

{#if problem}
  <div class="caution my-3" role="alert">
    {#if problem.says}<b>{problem.says}</b>{:else}<b>{problem.title}.</b>
      {#if problem.field && problem.allowed}Allowed: {problem.allowed}.{/if}{/if}
    {#if problem.detail}{problem.detail}{/if}
    {#each problem.meant ?? [] as m (m.says)}
      {#if take}<button
          type="button"
          class="btn btn-primary mt-2 block"
          onclick={() => take(m, problem.field ?? '')}>{m.says}: take it</button
        >{:else}<p>{m.says}.</p>{/if}
    {/each}
    {#if problem.finding}
      {#each problem.finding.because as r}<p>{r.text}</p>{/each}
      {#each problem.finding.next ?? [] as n}<p>{n}</p>{/each}
    {/if}
  </div>
{/if}
