<script lang="ts">
  import { ask, client, device, newId, problemOf, type Problem, type Schemas } from '../../data/api'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { navigate } from '../../router'

  // without a method, the one chosen for the machine
  let {
    machine,
    parts = ['group-1'],
    text,
    method,
    task,
    more = {},
    practice = false,
    line = false,
  }: {
    machine: string
    parts?: string[]
    text: string
    task?: Schemas['NewRun']['task']
    method?: Schemas['NewRun']['method']
    more?: Partial<Schemas['NewRun']>
    practice?: boolean
    line?: boolean
  } = $props()
  const quick = 10 // run seconds a second, in practice
  let problem = $state<Problem>()
  let busy = $state(false)
  const id = newId() // a second press is the same request

  async function start() {
    busy = true
    try {
      const body = {
        id,
        device: device(),
        parts,
        ...(method && { method }),
        ...(task && { task }),
        ...more,
        ...(practice && { practice, speed: quick }),
      }
      const run = await ask(
        client.POST('/machines/{machine_id}/runs', { params: { path: { machine_id: machine } }, body }),
      )
      await navigate('/machines/:id/runs/:run', { params: { id: machine, run: run.id } })
    } catch (error) {
      problem = problemOf(error)
      busy = false
    }
  }
</script>

<button
  type="button"
  class="for-closer btn btn-primary self-start"
  class:btn-outline={line}
  disabled={busy}
  onclick={start}>{text}</button
>
{#if problem}<ProblemNote {problem} />{/if}
