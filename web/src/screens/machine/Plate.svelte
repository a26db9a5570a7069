<!-- Whose a machine is, what stands on its plate, what is noted of it, and a photo. -->
<script lang="ts">
  import { ask, client, type Schemas } from '../../data/api'
  import { Act } from '../../data/resource.svelte'
  import { dated, groupOf } from '../../ui/format'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { sent, smaller } from '../shared/photo'

  let {
    machine,
    plate,
    fitted,
    onchanged,
  }: {
    machine: Schemas['Machine']
    plate: Schemas['PlateShown']
    fitted: Schemas['FittedPart'][]
    onchanged: () => void
  } = $props()
  // svelte-ignore state_referenced_locally
  let said = $state({
    name: machine.name,
    owner: machine.owner,
    place: machine.place,
    model: plate.model,
    serial: plate.serial,
    notes: plate.notes,
  })
  const act = new Act()
  let kept = $state(false)
  let turn = $state(0) // a new photo has the same address
  const path = $derived({ params: { path: { machine_id: machine.id } } })

  const change = (call: () => Promise<unknown>) => act.try(call).then((done) => done && onchanged())
  const keep = (archived: boolean) =>
    change(async () => {
      const { name, owner, place, model, serial, notes } = said
      await ask(
        client.POST('/machines/{machine_id}/details', {
          ...path,
          body: { version: machine.version, name, owner, place, archived },
        }),
      )
      await ask(client.PUT('/machines/{machine_id}/plate', { ...path, body: { model, serial, notes } }))
      kept = true
    })
  const take = (file: File | undefined) =>
    file &&
    change(async () => {
      const { url } = await smaller(file)
      await ask(
        client.PUT('/machines/{machine_id}/photo', { ...path, body: { photo: sent(url) }, parseAs: 'text' }),
      )
      turn++
    })
  const forget = () =>
    change(() => ask(client.DELETE('/machines/{machine_id}/photo', { ...path, parseAs: 'text' })))
</script>

<div class="plate">
  <form
    novalidate
    onsubmit={(e) => {
      e.preventDefault()
      void keep(machine.archived)
    }}
  >
    <label>Name <input bind:value={said.name} maxlength="80" /></label>
    <label>Owner <input bind:value={said.owner} maxlength="80" /></label>
    <label>Place <input bind:value={said.place} maxlength="80" /></label>
    <label>Model <input bind:value={said.model} maxlength="80" placeholder="as the plate says" /></label>
    <label>Serial number <input bind:value={said.serial} maxlength="80" /></label>
    <label>Notes <textarea bind:value={said.notes} maxlength="2000" rows="3"></textarea></label>
    <ProblemNote problem={act.problem} />
    <div class="for-keeper flex flex-wrap items-center gap-3">
      <button class="btn btn-primary">Save</button>
      <button type="button" class="btn btn-outline btn-primary" onclick={() => keep(!machine.archived)}
        >{machine.archived ? 'Put it back on the bench' : 'Archive this machine'}</button
      >
      {#if kept}<span role="status">Saved.</span>{/if}
    </div>
  </form>
  <div class="photo">
    {#if fitted.length > 0}
      <h3 class="head-voice text-[20px]">Fitted</h3>
      <ul class="mb-3">
        {#each fitted as f (f.title + f.part)}<li>
            {f.title}{machine.plan.groups > 1 && groupOf(f.part) > 0 ? `, group ${groupOf(f.part)}` : ''}:
            <b>{dated(f.at, machine.zone)}</b>
          </li>{/each}
      </ul>
    {/if}
    {#if plate.photo}{#key turn}<img
          src="/api/machines/{machine.id}/photo?{turn}"
          alt="{machine.name}, a photo"
        />{/key}{/if}
    <label class="for-keeper btn btn-outline btn-primary"
      >{plate.photo ? 'Another photo' : 'Add a photo'}<input
        class="sr-only"
        type="file"
        accept="image/*"
        onchange={(e) => take(e.currentTarget.files?.[0])}
      /></label
    >
    {#if plate.photo}<button type="button" class="for-keeper linked" onclick={forget}>Forget the photo</button>{/if}
    <p class="label-voice">It stays on this machine's page. Where and when it was taken is left out.</p>
  </div>
</div>

<style>
  .plate {
    display: grid;
    grid-template-columns: minmax(0, 1.3fr) minmax(0, 1fr);
    gap: 24px 40px;
  }
  form {
    display: grid;
    gap: 10px;
  }
  form label {
    display: grid;
    grid-template-columns: 120px 1fr;
    align-items: center;
    font-weight: 600;
  }
  .photo {
    display: grid;
    gap: 8px;
    align-content: start;
    justify-items: start;
  }
  img {
    max-width: 100%;
    max-height: 320px;
    border: 2px solid var(--color-ink);
  }
  .photo label:focus-within {
    outline: 3px solid var(--color-act);
    outline-offset: 2px;
  }
  @media (max-width: 800px) {
    .plate,
    form label {
      grid-template-columns: minmax(0, 1fr);
    }
  }
</style>
