<!-- What is let in: each device by its name, shut out at a press; one more by a QR code or six digits. -->
<script lang="ts">
  import { ask, client, type Schemas } from '../../data/api'
  import { leave, me } from '../../data/me.svelte'
  import { Act, Resource } from '../../data/resource.svelte'
  import { clock, stamp } from '../../ui/format'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import QrPicture from '../../ui/QrPicture.svelte'

  type Role = Schemas['Role']
  const page = new Resource<Schemas['Devices']>()
  const act = new Act()
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone
  const all: Role[] = ['onlooker', 'closer', 'keeper', 'owner']
  const mine = $derived(all.slice(0, all.indexOf(me.value?.role ?? 'onlooker') + 1))
  let name = $state('')
  let role = $state<Role>(me.value?.role ?? 'onlooker')
  let kiosk = $state(false)
  let offer = $state<Schemas['PairOffer']>()

  const load = () => page.ask((signal) => ask(client.GET('/devices', { signal })))
  $effect(() => void load())
  const show = () =>
    act.try(async () => {
      const body = { name: name.trim(), role, kiosk }
      offer = await ask(client.POST('/devices', { body }))
    })
  const shutOut = (device_id: string) =>
    page.change(() => ask(client.DELETE('/devices/{device_id}', { params: { path: { device_id } } })), load)
</script>

<h2 class="head-voice text-[24px]">Devices that are let in</h2>
<ul class="mt-1">
  {#each page.value?.devices ?? [] as d (d.id)}
    <li class="border-rule flex flex-wrap items-center justify-between gap-x-6 border-b py-1">
      <span
        ><b>{d.name}</b>{d.person ? `, ${d.person}` : ', nobody’s'}, as {d.role}
        <span class="label-voice block">let in {stamp(d.made, zone)}; last seen {stamp(d.seen, zone)}</span></span
      >
      {#if d.this}<b>this one</b>
      {:else}<button type="button" class="linked" onclick={() => shutOut(d.id)}>Shut it out</button>{/if}
    </li>
  {/each}
</ul>
<ProblemNote problem={page.problem} />
{#if offer}
  <div class="mt-4 grid max-w-2xl grid-cols-[minmax(0,300px)_1fr] items-start gap-6 max-md:grid-cols-1">
    <QrPicture rows={offer.qr} label="QR code that lets {name} in" />
    <div>
      <p>Read this with the camera of {name}, or open this server’s address there and type:</p>
      <p class="huge-voice my-3 text-[72px]">{offer.code.slice(0, 3)} {offer.code.slice(3)}</p>
      <p>It holds once, until {clock(offer.ends, zone)}.</p>
      {#if me.value?.fingerprint}<details class="mt-2">
          <summary class="linked py-2">The browser there warns of the certificate</summary>
          <p class="text-[15px]">
            This server made its certificate itself. Go on only if the SHA-256 fingerprint that the browser shows
            is:
          </p>
          <p class="text-[15px] break-all"><code>{me.value.fingerprint}</code></p>
        </details>{/if}
      <button
        type="button"
        class="btn btn-outline btn-primary mt-3"
        onclick={() => {
          offer = undefined
          void load()
        }}>Done</button
      >
    </div>
  </div>
{:else}
  <form
    class="mt-4 flex flex-wrap items-end gap-3"
    onsubmit={(e) => {
      e.preventDefault()
      void show()
    }}
  >
    <label class="field"
      >Its name<input maxlength="80" bind:value={name} placeholder="phone in the kitchen" required /></label
    >
    {#if !kiosk}<label class="field"
        >It may<select bind:value={role}
          >{#each mine as r (r)}<option value={r}>as {r}</option>{/each}</select
        ></label
      >{/if}
    <label class="tick"><input type="checkbox" bind:checked={kiosk} /> at the bar, nobody’s own</label>
    <button class="btn btn-primary" disabled={!name.trim()}>Let a device in</button>
  </form>
{/if}
<ProblemNote problem={act.problem} />
<p class="mt-3">
  <button type="button" class="linked" onclick={() => leave(true)}>Log out on all my devices</button>
</p>
