<!-- A number that is kept: how it was worked out is asked for when somebody opens it. -->
<script lang="ts">
  import { ask, client, problemOf, type Schemas, type Worked } from '../data/api'
  import { amount } from './format'
  import { open } from '../data/state.svelte'

  type Machine = Schemas['Machine']
  let {
    machine,
    text,
    of,
    limit,
  }: {
    machine: string
    text: string
    of: (m: Machine) => Worked | undefined
    limit?: { value: number; unit: string }
  } = $props()
  let failed = $state('')

  async function look() {
    try {
      const w = of(await ask(client.GET('/machines/{machine_id}', { params: { path: { machine_id: machine } } })))
      failed = w ? '' : 'It has changed meanwhile'
      if (w) open(w, limit && `It may go to ${amount(limit.value, limit.unit)}.`)
    } catch (error) {
      failed = problemOf(error).title
    }
  }
</script>

<button type="button" class="num" onclick={look} aria-label="{text}: how it was worked out">{text}</button
>{#if failed}<span role="alert"> ({failed})</span>{/if}
