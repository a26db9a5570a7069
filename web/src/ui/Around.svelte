<!-- A due date with its range, such as: around 9 December (5 – 14 Dec). -->
<script lang="ts">
  import type { Due, Standing } from '../data/api'
  import Ask from './Ask.svelte'
  import { day, range } from './format'
  import Num from './Num.svelte'

  // of a kept standing the machine is named: how its date came about is asked for
  let { due, zone, machine }: { due: Due | Standing; zone: string; machine?: string } = $props()
</script>

around <b
  >{#if 'days' in due && due.days}<Num worked={due.days} text={day(due.likely, zone)} />{:else if machine}<Ask
      {machine}
      text={day(due.likely, zone)}
      of={(m) => m.plan.dues.find((d) => d.task === due.task && d.part === due.part)?.days}
    />{:else}{day(due.likely, zone)}{/if}</b
>{#if range(due, zone)}&nbsp;({range(due, zone)}){/if}
