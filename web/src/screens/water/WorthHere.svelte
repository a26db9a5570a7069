<!-- What would help most to know of this water and machine. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { p } from '../../router'
  import Num from '../../ui/Num.svelte'
  import { span } from '../../ui/format'

  let { w, onenter }: { w: Schemas['WaterAtWork']; onenter: () => void } = $props()
</script>

<ol class="list-decimal pl-5">
  {#each w.worth ?? [] as x (x.key)}
    <li class="py-1">
      <b>{x.do}</b> It {x.says}.{#if x.soonest && x.latest && x.days >= 1}<span class="label-voice ml-1"
          >From <Num worked={x.soonest} text={span(x.soonest.value)} /> to <Num
            worked={x.latest}
            text={span(x.latest.value)}
          /></span
        >{/if}
      {#if x.spot}<a
          class="text-act ml-2 inline-flex min-h-11 items-center underline underline-offset-4"
          href={p('/machines/:id', { params: { id: w.machine_id } })}>Say it</a
        >{:else}<button type="button" class="linked text-act ml-2 inline-flex items-center" onclick={onenter}
          >Enter it</button
        >{/if}
    </li>
  {/each}
</ol>
