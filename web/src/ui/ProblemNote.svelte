<!-- What the server refused, why, and what is allowed; what was probably meant is a key. A machine that is not here is
     no fault of anybody's: the machines there are stand in its place. -->
<script lang="ts">
  import type { Problem, Schemas } from '../data/api'
  import Elsewhere from './Elsewhere.svelte'

  type Meant = Schemas['Meant']
  let { problem, take }: { problem: Problem | undefined; take?: (m: Meant, field: string) => void } = $props()
  const elsewhere = $derived(
    problem?.field === 'machine_id' && ['not_found', 'contract', 'out_of_range'].includes(problem.code),
  )
  const calm = $derived(problem && ['nothing_together', 'nothing_due'].includes(problem.code))
</script>

{#if problem && elsewhere}
  <Elsewhere title="This machine is not here" text="Its address is wrong, or somebody took it off the bench." />
{:else if problem && calm}
  <div class="my-3" role="status">
    <h1 class="head-voice text-[38px]">{problem.title}</h1>
    {#if problem.detail}<p class="mt-2">{problem.detail}</p>{/if}
  </div>
{:else if problem}
  <div class={['caution my-3', problem.says && 'ink-bar']} role="alert">
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
