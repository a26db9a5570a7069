<!-- Holidays and closed seasons: entered, and taken back. -->
<script lang="ts">
  import { ask, client, newId, type Schemas } from '../../data/api'
  import { Act } from '../../data/resource.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { day } from '../../ui/format'

  let {
    machine,
    list,
    onchanged,
  }: { machine: string; list: Schemas['Away'][]; onchanged: (m: Schemas['Machine']) => void } = $props()
  let from = $state('')
  let to = $state('')
  let note = $state('')
  const act = new Act()
  const written = (date: string) => day(`${date}T12:00:00Z`, 'UTC')

  const change = (call: () => Promise<Schemas['Machine']>) =>
    act.try(async () => {
      onchanged(await call())
      from = to = note = ''
    })
  const enter = () =>
    change(() =>
      ask(
        client.POST('/machines/{machine_id}/away', {
          params: { path: { machine_id: machine } },
          body: { id: newId(), from, to, note },
        }),
      ),
    )
  const forget = (away_id: string) =>
    change(() =>
      ask(
        client.DELETE('/machines/{machine_id}/away/{away_id}', {
          params: { path: { machine_id: machine, away_id } },
        }),
      ),
    )
</script>

<p class="mb-2 max-w-2xl text-[16px]">
  A holiday or a closed season. No use is expected then, so dates move behind it; what is counted by days runs on.
</p>
{#if list.length > 0}
  <ul class="border-ink border-t-2">
    {#each list as a (a.id)}
      <li class="border-rule flex flex-wrap items-center gap-x-5 border-b py-1">
        <span class="num-voice">{written(a.from)}{a.to === a.from ? '' : ` to ${written(a.to)}`}</span>
        <span class="grow">{a.note}</span>
        <button type="button" class="for-keeper linked text-act" onclick={() => forget(a.id)}>undo</button>
      </li>
    {/each}
  </ul>
{/if}
<form
  class="for-keeper mt-2 flex flex-wrap items-end gap-3"
  novalidate
  onsubmit={(e) => {
    e.preventDefault()
    void enter()
  }}
>
  <label class="field">First day <input type="date" bind:value={from} /></label>
  <label class="field">Last day <input type="date" bind:value={to} /></label>
  <label class="field">What for <input bind:value={note} maxlength="80" placeholder="may stay empty" /></label>
  <button class="btn btn-outline btn-primary" disabled={!from || !to}>Save the days</button>
</form>
<ProblemNote problem={act.problem} />
