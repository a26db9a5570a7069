<script lang="ts">
  import { ask, client, type Schemas } from '../../data/api'
  import { Act } from '../../data/resource.svelte'
  import { hardnessUnits } from '../../ui/format'
  import Picks from '../../ui/Picks.svelte'
  import { may, me } from '../../data/me.svelte'
  import Accounts from './Accounts.svelte'
  import Copies from './Copies.svelte'
  import Devices from './Devices.svelte'
  import Feeds from './Feeds.svelte'
  import Reminders from './Reminders.svelte'
  import TakeAway from './TakeAway.svelte'
  import People from './People.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { prefs, setTheme, theme } from '../../data/state.svelte'

  const act = new Act()
  let currency = $state(prefs.currency)
  $effect(() => {
    document.title = 'Preferences · Fresh Anvil'
  })
  $effect(() => {
    currency = prefs.currency
  })

  async function keep(change: Partial<Schemas['Preferences']>) {
    await act.try(async () => {
      Object.assign(prefs, await ask(client.PUT('/preferences', { body: { ...prefs, ...change } })))
    })
  }
  // without a login, whoever stands at this machine is its owner
  let people = $state(0) // counts up when the list is another
  const owns = $derived(me.value !== undefined && (!me.value.login || me.value.role === 'owner'))
  const themes = [
    { id: 'system', text: 'as the system has it' },
    { id: 'day', text: 'day' },
    { id: 'night', text: 'night' },
  ] as const
  const systems = [
    { id: 'metric', text: 'metric: g, mL, L' },
    { id: 'us', text: 'US customary: oz, fl oz, qt' },
  ] as const
  const clocks = [
    { id: '24', text: '19:10' },
    { id: '12', text: '7:10 pm' },
  ] as const
</script>

<div class="grid max-w-3xl gap-7 px-5 py-7 md:px-8">
  <h1 class="huge-voice text-[clamp(40px,5vw,64px)]">Preferences</h1>
  <Picks title="Day or night, on this device" name="theme" options={themes} value={theme.name} onpick={setTheme} />
  <div class="for-keeper grid gap-7">
    <Picks
      title="Masses and volumes"
      name="units"
      options={systems}
      value={prefs.units}
      onpick={(units) => keep({ units })}
    />
    <Picks
      title="Hardness"
      name="hardness"
      options={hardnessUnits}
      value={prefs.hardness}
      onpick={(hardness) => keep({ hardness })}
    />
    <Picks
      title="Time of day"
      name="clock"
      options={clocks}
      value={prefs.clock}
      onpick={(clock) => keep({ clock })}
    />
    <form
      onsubmit={(e) => {
        e.preventDefault()
        void keep({ currency: currency.trim().toUpperCase() })
      }}
    >
      <label class="head-voice block text-[24px]" for="currency">Currency, three letters</label>
      <div class="mt-2 flex gap-3">
        <input id="currency" class="h-[52px] w-32 text-[22px]" maxlength="3" bind:value={currency} />
        <button class="btn btn-outline btn-primary">Save</button>
      </div>
    </form>
  </div>
  {#if me.value && may('keeper')}<section><Feeds /></section>
    <section><TakeAway everything={owns} /></section>{/if}
  {#if owns}<section><Reminders /></section>{/if}
  {#if owns}<section><People onchanged={() => people++} /></section>{/if}
  {#if me.value?.login}
    {#if owns}{#key people}<section><Accounts /></section>{/key}{/if}
    <section><Devices /></section>
  {/if}
  {#if owns}<section><Copies /></section>{/if}
  <ProblemNote problem={act.problem} />
</div>
