<!-- A clock as a strip that fills towards its post; past the post it is overdue. -->
<script lang="ts">
  import type { Schemas, Standing } from '../data/api'
  import Ask from './Ask.svelte'
  import { amount, clock as hour, figure, preferred, round } from './format'
  import Num from './Num.svelte'
  import Pattern from './Pattern.svelte'

  // of a kept standing the machine is named: how much has gone is asked for when it is opened
  let {
    clock,
    due,
    zone,
    big = false,
    machine,
  }: {
    clock: Schemas['Clock'] | NonNullable<Standing['clock']>
    due: Pick<Standing, 'daily' | 'last' | 'task' | 'part'>
    zone: string
    big?: boolean
    machine?: string
  } = $props()
  const used = $derived(typeof clock.used === 'number' ? clock.used : clock.used.value)
  const id = $props.id()
  const post = 82
  const filled = $derived(Math.min(100, (used / clock.limit) * post))
  const words = $derived.by(() => {
    if (due.daily && !clock.over) return due.last ? `since ${hour(due.last, zone)}` : ''
    if (clock.kind === 'scale') return `${used.toFixed(2)} of ${clock.limit} mm`
    if (clock.over && clock.kind !== 'coffee')
      return used - clock.limit < 1 ? 'at its limit' : `+${round(used - clock.limit)}`
    if (clock.kind === 'coffee')
      return `${figure(preferred(used / 1000, 'kg').value)} of ${amount(clock.limit / 1000, 'kg')}`
    if (clock.kind === 'litres') return `${figure(preferred(used, 'L').value)} of ${amount(clock.limit, 'L')}`
    return `${round(Math.floor(used))} of ${round(clock.limit)}`
  })
</script>

<div class="ruler" class:text-stop={clock.over} class:big>
  <span>{due.daily ? 'day' : clock.kind}</span>
  <svg aria-hidden="true" preserveAspectRatio="none">
    <defs>
      <Pattern {id} kind={clock.kind} />
    </defs>
    <rect width="{filled}%" height="16" fill="url(#{id})" />
    <line x1="0" y1="16.5" x2="100%" y2="16.5" stroke="var(--color-rule)" />
    <line x1="{post}%" y1="-3" x2="{post}%" y2="19" stroke="currentColor" stroke-width="2.5" />
  </svg>
  <b
    >{#if typeof clock.used !== 'number'}<Num
        worked={clock.used}
        text={words}
        limit={`It may go to ${amount(clock.limit, clock.unit)}.`}
      />{:else if machine}<Ask
        {machine}
        text={words}
        limit={{ value: clock.limit, unit: clock.unit }}
        of={(m) =>
          m.plan.dues
            .find((d) => d.task === due.task && d.part === due.part)
            ?.clocks.find((c) => c.kind === clock.kind)?.used}
      />{:else}{words}{/if}</b
  >
</div>

<style>
  .ruler {
    display: grid;
    grid-template-columns: 58px 1fr 112px;
    align-items: center;
    gap: 8px;
    font-size: 15px;
    font-stretch: 78%;
  }
  .ruler svg {
    width: 100%;
    height: 16px;
    display: block;
    overflow: visible;
  }
  .ruler b {
    font-stretch: 70%;
    text-align: right;
  }
  .ruler.big {
    font-size: 18px;
  }
</style>
