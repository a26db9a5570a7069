<script lang="ts">
  import { ask, client, type Schemas } from '../../data/api'
  import { Act } from '../../data/resource.svelte'
  import { hardnessUnits } from '../../ui/format'
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
  const themes = [
    ['system', 'as the system has it'],
    ['day', 'day'],
    ['night', 'night'],
  ] as const
  const systems = [
    ['metric', 'metric: g, mL, L'],
    ['us', 'US customary: oz, fl oz, qt'],
  ] as const
  const clocks = [
    ['24', '19:10'],
    ['12', '7:10 pm'],
  ] as const
</script>

<div class="grid max-w-3xl gap-7 px-5 py-7 md:px-8">
  <h1 class="huge-voice text-[clamp(40px,5vw,64px)]">Preferences</h1>
  <fieldset>
    <legend class="head-voice text-[24px]">Day or night, on this device</legend>
    <div class="keys">
      {#each themes as [id, text] (id)}<label class="pick"
          ><input
            class="sr-only"
            type="radio"
            name="theme"
            checked={theme.name === id}
            onchange={() => setTheme(id)}
          />{text}</label
        >{/each}
    </div>
  </fieldset>
  <fieldset>
    <legend class="head-voice text-[24px]">Masses and volumes</legend>
    <div class="keys">
      {#each systems as [id, text] (id)}<label class="pick"
          ><input
            class="sr-only"
            type="radio"
            name="units"
            checked={prefs.units === id}
            onchange={() => keep({ units: id })}
          />{text}</label
        >{/each}
    </div>
  </fieldset>
  <fieldset>
    <legend class="head-voice text-[24px]">Hardness</legend>
    <div class="keys">
      {#each hardnessUnits as u (u.id)}<label class="pick"
          ><input
            class="sr-only"
            type="radio"
            name="hardness"
            checked={prefs.hardness === u.id}
            onchange={() => keep({ hardness: u.id })}
          />{u.text}</label
        >{/each}
    </div>
  </fieldset>
  <fieldset>
    <legend class="head-voice text-[24px]">Time of day</legend>
    <div class="keys">
      {#each clocks as [id, text] (id)}<label class="pick"
          ><input
            class="sr-only"
            type="radio"
            name="clock"
            checked={prefs.clock === id}
            onchange={() => keep({ clock: id })}
          />{text}</label
        >{/each}
    </div>
  </fieldset>
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
  <section><People /></section>
  <ProblemNote problem={act.problem} />
</div>

<style>
  .keys {
    display: flex;
    flex-wrap: wrap;
    margin-top: 8px;
    padding-left: 1.5px;
  }
</style>
