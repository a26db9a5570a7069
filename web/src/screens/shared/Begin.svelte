<!-- The button of what stands foremost on a machine: it begins a run, goes back to one, or opens what is looked at
     first. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { p } from '../../router'
  import Lead from './Lead.svelte'
  import StartWash from './StartWash.svelte'
  import VoidRun from './VoidRun.svelte'

  // short: among many, where there is room for a word or two
  let {
    machine,
    front,
    run,
    short = false,
    line = false,
    onended,
  }: {
    machine: string
    front: Schemas['Front']
    run?: string | undefined
    short?: boolean
    line?: boolean
    onended?: () => void
  } = $props()
  const to = $derived({ params: { id: machine } })
  const text = $derived((short ? front.short : front.button) ?? '')
  const href = $derived.by(() => {
    switch (front.begin) {
      case 'go_on':
        return run && p('/machines/:id/runs/:run', { params: { id: machine, run } })
      case 'sheet':
        return p('/machines/:id/sitting', to)
      case 'order':
        return `${p('/today')}?machine=${machine}`
      case 'card':
        return p('/machines/:id/descale', to)
      case 'see':
        return p('/machines/:id', to)
    }
    return short && (front.begin === 'void' || front.begin === 'named') ? p('/machines/:id', to) : undefined
  })
</script>

{#if href}<a class="btn btn-primary self-start" class:btn-outline={line} {href}>{text || 'see it'}</a>
{:else if front.begin === 'void' && run}<VoidRun {run} onended={() => onended?.()} />
{:else if front.begin === 'named' && front.task}<Lead
    {machine}
    due={{ task: front.task, whose: 'entitled' }}
    parts={front.parts ?? []}
  />
{:else if front.begin === 'run' && front.task}<StartWash
    {machine}
    parts={front.parts ?? []}
    task={front.task as Schemas['NewRun']['task']}
    {text}
    {line}
  />{/if}
