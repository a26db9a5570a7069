<script lang="ts">
  import { Router } from 'sv-router'
  import Band from './lib/Band.svelte'
  import HowWorked from './lib/HowWorked.svelte'
  import { isActive, p, route } from './lib/router'
  import { loadHazards, startTheme, switchTheme, theme } from './lib/state.svelte'

  startTheme()
  let now = $state(new Date())
  $effect(() => {
    const tick = setInterval(() => (now = new Date()), 10_000)
    return () => clearInterval(tick)
  })
  $effect(() => {
    void route.pathname // look again on every screen
    void loadHazards()
  })
  const running = $derived(/\/runs\//.test(route.pathname))
  const when = $derived(new Intl.DateTimeFormat('en-GB', { weekday: 'short', day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' }).format(now))
</script>

{#if !running}
  <Band />
  <header class="border-ink flex flex-wrap items-baseline gap-x-6 gap-y-0 border-b-2 px-5 pt-3 md:gap-x-7 md:px-8">
    <a href={p('/')} class="mr-3 pb-2 text-[22px] font-extrabold" style="font-stretch:66%">Fresh Anvil</a>
    <nav class="flex gap-x-6 md:gap-x-7" aria-label="Screens">
      <a href={p('/')} class="nav" aria-current={isActive('/') ? 'page' : undefined}>Bench</a>
      <a href={p('/log')} class="nav" aria-current={isActive('/log') || isActive('/machines/:id/log') ? 'page' : undefined}>Log</a>
      <a href={p('/machines/new')} class="nav" aria-current={isActive('/machines/new') ? 'page' : undefined}>Add a machine</a>
    </nav>
    <div class="text-ink-2 narrow ml-auto flex items-baseline gap-5 pb-2">
      <button class="cursor-pointer underline underline-offset-4" onclick={switchTheme} title="Day, night, or as the system has it">{theme.name === 'system' ? 'day or night' : theme.name}</button>
      <span class="max-md:hidden">{when}</span>
    </div>
  </header>
{/if}
<main class="flex grow flex-col"><Router /></main>
<HowWorked />

<style>
  .nav {
    font-stretch: 80%;
    font-weight: 500;
    padding: 4px 0 8px;
    border-bottom: 6px solid transparent;
  }
  .nav[aria-current] {
    border-color: var(--color-ink);
    font-weight: 700;
  }
</style>
