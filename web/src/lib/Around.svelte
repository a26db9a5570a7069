<!-- A due date with its range, such as: around 9 December (5 – 14 Dec). -->
<script lang="ts">
  import type { Due } from './api'
  import { day, range } from './format'
  import Num from './Num.svelte'

  let { due, zone }: { due: Due; zone: string } = $props()
</script>

around <b>{#if due.days}<Num worked={due.days} text={day(due.likely, zone)} />{:else}{day(due.likely, zone)}{/if}</b>{#if range(due, zone)}&nbsp;({range(due, zone)}){/if}
