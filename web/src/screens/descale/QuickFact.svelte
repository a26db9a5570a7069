<!-- A question that decides, answered in one press: one of its options, or, of a number, one of the usual ones. -->
<script lang="ts">
  import { ask, client, type Schemas } from '../../data/api'
  import { Act } from '../../data/resource.svelte'
  import Choice from '../../ui/Choice.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  let {
    machine,
    version,
    fact,
    title,
    usual = [],
    onchanged,
  }: {
    machine: string
    version: number
    fact: Schemas['Fact']
    title?: string
    usual?: number[]
    onchanged: () => void
  } = $props()
  const act = new Act()
  let picked = $state<string>()
  const options = $derived(
    fact.options
      ? fact.options.map((o, i) => ({ id: o, title: fact.titles?.[i] ?? o })).filter((o) => o.id !== 'not_said')
      : usual.map((n) => ({ id: String(n), title: `${n} ${fact.unit}` })),
  )

  async function say(value: string) {
    await act.try(async () => {
      await ask(
        client.POST('/machines/{machine_id}/facts', {
          params: { path: { machine_id: machine } },
          body: { version, facts: [{ key: fact.key, value }] },
        }),
      )
      onchanged()
    })
  }
</script>

<div class="for-keeper mt-3">
  <h3 class="mb-1 font-semibold">{title ?? `${fact.label.charAt(0).toUpperCase()}${fact.label.slice(1)}?`}</h3>
  <Choice
    name={fact.key}
    label={title ?? fact.label}
    wide={fact.options ? 100 : 80}
    bind:value={
      () => picked,
      (v) => {
        picked = v
        if (v) void say(v)
      }
    }
    {options}
  />
  <ProblemNote problem={act.problem} />
</div>
