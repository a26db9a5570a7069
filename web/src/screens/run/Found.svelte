<!-- What the run has to say of what was pressed: in its way, with its reason and what to do. -->
<script lang="ts">
  import { p } from '../../router'
  import type { Stage } from './stage.svelte'

  let { s }: { s: Stage } = $props()
  const run = $derived(s.run!)
</script>

{#if run.finding}
  {@const f = run.finding}
  <div class={f.verdict === 'fine' ? 'fine' : 'caution'} role="alert">
    {#if f.verdict === 'stop' && s.pressed > 0}<h1 class="huge-voice text-stop mb-3 text-[clamp(36px,5vw,64px)]">
        {f.title}
      </h1>
    {:else}<h2 class="head-voice text-[30px]" class:text-stop={f.verdict === 'stop'}>{f.title}</h2>{/if}
    {#each f.because as r}<p>{r.text}</p>{/each}
    {#each f.next ?? [] as n}<p><b>{n}</b></p>{/each}
    {#if f.symptom}<a
        class="inline-flex min-h-11 items-center underline underline-offset-4"
        href="{p('/machines/:id/diagnose', { params: { id: run.machine_id } })}?symptom={f.symptom}&run={run.id}"
        >Look for the cause</a
      >{/if}
  </div>
{/if}
