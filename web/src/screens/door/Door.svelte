<!-- Before the door: log in, begin as the owner, or be let in by what another device shows. -->
<script lang="ts">
  import { tick } from 'svelte'
  import { ask, client } from '../../data/api'
  import { deviceName, enter, me } from '../../data/me.svelte'
  import { Act } from '../../data/resource.svelte'
  import { navigate, route } from '../../router'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  type Way = 'login' | 'owner' | 'pair'
  const act = new Act()
  let chosen = $state<Way>()
  const way = $derived<Way>(chosen ?? (me.value?.first ? 'owner' : route.pathname === '/pair' ? 'pair' : 'login'))
  let name = $state('')
  let passphrase = $state('')
  let code = $state('')
  let busy = $state(false)
  let head = $state<HTMLHeadingElement>()
  const heads: Record<Way, string> = { login: 'Log in', owner: 'Begin as the owner', pair: 'Let this device in' }

  $effect(() => {
    document.title = `${heads[way]} · Fresh Anvil`
  })
  // a QR code was read: what follows # lets this device in, at once, and leaves the address
  const token = location.hash.slice(1)
  if (route.pathname === '/pair' && token.length > 20) {
    history.replaceState(null, '', '/pair')
    void go('pair', token)
  }
  async function go(by: Way, typed = code) {
    busy = true
    const device = deviceName()
    const done = await act.try(() =>
      enter(() =>
        by === 'login'
          ? ask(client.POST('/login', { body: { name, passphrase, device } }))
          : by === 'owner'
            ? ask(client.POST('/login/owner', { body: { code: typed, name, passphrase, device } }))
            : ask(client.POST('/login/pair', { body: { code: typed } })),
      ),
    )
    busy = false
    if (done && route.pathname === '/pair') await navigate('/', { replace: true })
  }
  async function turn(to: Way) {
    chosen = to
    act.problem = undefined
    await tick()
    head?.focus()
  }
</script>

<div class="door">
  <p class="text-[22px] font-extrabold [font-stretch:66%]">Fresh Anvil</p>
  <h1 class="huge-voice mt-6 text-[clamp(44px,7vw,84px)] outline-none" tabindex="-1" bind:this={head}>
    {heads[way]}
  </h1>
  <form
    class="mt-5 grid max-w-md gap-4"
    onsubmit={(e) => {
      e.preventDefault()
      void go(way)
    }}
  >
    {#if way === 'owner'}
      <p>
        {me.value?.first
          ? 'Nobody is let in yet. The code stands in the terminal in which the server was started.'
          : 'The code is made on the server, by: freshanvil owner.'}
      </p>
      <label class="field"
        >Code<input class="big" bind:value={code} required autocomplete="off" autocapitalize="characters" /></label
      >
    {/if}
    {#if way === 'pair'}
      <p>On a device that is in: Preferences, Let a device in. It shows six digits.</p>
      <label class="field"
        >Six digits<input
          class="big"
          bind:value={code}
          required
          inputmode="numeric"
          autocomplete="one-time-code"
          maxlength="7"
        /></label
      >
    {:else}
      <label class="field"
        >Name<input
          bind:value={name}
          required
          maxlength="40"
          autocomplete="username"
          autocapitalize="words"
        /></label
      >
      <label class="field"
        >{way === 'owner' ? 'A passphrase of your own: ten signs or more' : 'Passphrase'}<input
          type="password"
          bind:value={passphrase}
          required
          maxlength="200"
          autocomplete={way === 'owner' ? 'new-password' : 'current-password'}
        /></label
      >
    {/if}
    <ProblemNote problem={act.problem} />
    <button class="btn btn-primary h-[60px] text-[20px]" disabled={busy}>{heads[way]}</button>
  </form>
  <p class="mt-6 flex flex-wrap gap-x-8">
    {#each ['login', 'pair', 'owner'] as const as other (other)}
      {#if other !== way && !(other === 'login' && me.value?.first)}<button
          type="button"
          class="linked"
          onclick={() => turn(other)}>{other === 'owner' ? 'I have a code' : heads[other]}</button
        >{/if}
    {/each}
  </p>
  {#if me.value && !me.value.secure}<p class="caution mt-6 max-w-md">
      <b>This connection is not private.</b>
      Whoever shares the network may read the passphrase. Ask for the address that begins with https.
    </p>{/if}
</div>

<style>
  .door {
    padding: clamp(20px, 5vw, 60px);
  }
  form {
    grid-template-columns: minmax(0, 1fr);
  }
  input {
    width: 100%;
  }
  .big {
    height: 68px;
    font-size: 34px;
    font-stretch: 75%;
    letter-spacing: 0.06em;
  }
</style>
