<!-- What the spent solution says: how much scale was there, which moves what is believed of this machine. -->
<script lang="ts">
  import { ask, client, newId, type Schemas } from '../../data/api'
  import { Act } from '../../data/resource.svelte'
  import { amount, day, round, short } from '../../ui/format'
  import Num from '../../ui/Num.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  let { card, onchanged }: { card: Schemas['MachineDescale']; onchanged: () => void } = $props()
  let ph = $state<number | null>(null)
  let litres = $state<number | null>(null)
  let strip = $state(true)
  let cloudy = $state(false)
  let said = $state<Schemas['SpentAnswers']>()
  const act = new Act()
  const path = $derived({ params: { path: { machine_id: card.machine_id } } })
  const acid = $derived(card.card?.acid)

  const send = () =>
    act.try(async () => {
      if (!card.card || !acid) return
      said = await ask(
        client.POST('/machines/{machine_id}/spent', {
          ...path,
          body: {
            id: newId(),
            reading: { acid, acid_g_l: card.card.strength_g_l, ph: ph ?? 0, litres: litres ?? 0, strip, cloudy },
          },
        }),
      )
      onchanged()
    })
  const forget = (spent: string) =>
    act.try(async () => {
      await ask(
        client.DELETE('/machines/{machine_id}/spent/{spent_id}', {
          params: { path: { machine_id: card.machine_id, spent_id: spent } },
        }),
      )
      said = undefined
      onchanged()
    })
</script>

<p class="max-w-2xl">
  After the soak, catch some of it: its pH tells how much scale was there. Enter it before the descale is put on
  record.
</p>
<form
  class="for-keeper mt-2 flex flex-wrap items-end gap-4"
  onsubmit={(e) => {
    e.preventDefault()
    void send()
  }}
>
  <label class="field"
    >pH of the spent solution<input type="number" step="any" min="0" max="14" bind:value={ph} /></label
  >
  <label class="field">litres of it<input type="number" step="any" min="0" bind:value={litres} /></label>
  <label class="tick"><input type="checkbox" bind:checked={strip} /> by a strip</label>
  <label class="tick"><input type="checkbox" bind:checked={cloudy} /> it was cloudy</label>
  <button class="btn btn-outline btn-primary" disabled={ph === null || litres === null}>What was there?</button>
</form>
<ProblemNote
  problem={act.problem}
  take={(m, field) => {
    if (field.endsWith('ph')) ph = m.value
    else litres = m.value
    void send()
  }}
/>
{#if said}
  <div class="mt-3" role="status">
    <p class="head-voice text-[24px]">
      {said.finding.title}{#if said.grams && said.grams.low < said.grams.high}, {short(said.grams.low)} to {short(
          said.grams.high,
        )}{/if}{said.at_least ? ' at least' : ''}
    </p>
    {#each said.finding.because as r}<p>{r.text}</p>{/each}
    {#if said.share}<p>
        Predicted were {amount(said.predicted_g ?? 0, 'g')}. The share that stays here is now taken as
        <b><Num worked={said.share} text="{round(said.share.value * 100)} %" /></b>.
      </p>{/if}
  </div>
{/if}
{#if card.spent.length > 0}
  <ul class="mt-2 max-w-xl">
    {#each card.spent as s (s.id)}
      <li class="border-rule flex items-baseline justify-between gap-4 border-b">
        <span
          >{day(s.at, card.zone)}:
          <Num worked={s.share} text="{round(s.share.value * 100)} %" /> of what falls out stays</span
        ><button type="button" class="for-keeper linked text-act" onclick={() => forget(s.id)}>undo</button>
      </li>
    {/each}
  </ul>
{/if}

<style>
  .field input {
    width: 150px;
  }
</style>
