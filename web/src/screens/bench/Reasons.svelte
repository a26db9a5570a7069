<!-- Why the next job falls due then, and when it was last done. -->
<script lang="ts">
  import type { BenchMachine, Standing } from '../../data/api'
  import { stamp } from '../../ui/format'

  let { machine, due }: { machine: BenchMachine; due: Standing } = $props()
</script>

{#if !machine.front.unsafe && !machine.open_run}<p>{due.why}</p>{/if}
{#if due.last}<p class="text-ink-2">
    {due.begun ? 'Counted from' : 'Last done'}
    {stamp(due.last, machine.zone)}.
  </p>{/if}
