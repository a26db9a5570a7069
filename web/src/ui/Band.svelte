<script lang="ts">
  import { p } from '../router'
  import { hazards } from '../data/state.svelte'
</script>

{#if hazards.list.length > 0}
  <div class="band" role="alert">
    <div class="grid gap-y-1">
      {#each hazards.list as h (h.machine_id + h.part + h.chemical)}
        <div class="flex flex-wrap justify-between gap-x-8">
          <span>{h.machine_name}. {h.text}</span>
          <a class="underline underline-offset-4" href={p('/machines/:id', { params: { id: h.machine_id } })}
            >See what to do</a
          >
        </div>
      {/each}
    </div>
  </div>
{/if}
