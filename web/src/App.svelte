<script lang="ts">
  import { Router } from 'sv-router'
  import Band from './lib/Band.svelte'
  import Help from './lib/Help.svelte'
  import HowWorked from './lib/HowWorked.svelte'
  import { stamp } from './lib/format'
  import { isActive, navigate, p, route } from './lib/router'
  import { askBench, help, loadHazards, loadPreferences, startTheme } from './lib/state.svelte'

  startTheme()
  void loadPreferences()
  void leadBack()

  // whoever opens a page while detergent or acid stands in a machine with its run open is
  // led back to it, once
  async function leadBack() {
    if (/\/runs\//.test(location.pathname)) return
    try {
      const { machines } = await askBench()
      const left = machines.find((m) => m.open_run && !m.open_run.unreadable && m.hazards.some((h) => h.run_id === m.open_run?.id || m.open_run?.parts.includes(h.part)))
      if (left?.open_run) await navigate('/machines/:id/runs/:run', { params: { id: left.id, run: left.open_run.id }, replace: true })
    } catch {
      // the band leads there too
    }
  }
  let now = $state(new Date())
  $effect(() => {
    const tick = setInterval(() => (now = new Date()), 10_000)
    return () => clearInterval(tick)
  })
  $effect(() => {
    void route.pathname // look again on every screen
    void loadHazards()
  })
  const running = $derived(/\/(runs\/|bar$)/.test(route.pathname))
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC'

  function key(event: KeyboardEvent) {
    if (event.ctrlKey || event.metaKey || event.altKey || (event.target as HTMLElement).closest('input, select, textarea, dialog[open]')) return
    if (event.key === '?') help.shown = true
    if (running) return
    if (event.key === 'b') void navigate('/')
    if (event.key === 'm') void navigate('/mix')
    if (event.key === 't') void navigate('/tape')
    if (event.key === 'w') void navigate('/water')
    if (event.key === 'l') void navigate('/log')
    if (event.key === 'a') void navigate('/machines/new')
    if (event.key === 'p') void navigate('/preferences')
  }
  const links = [
    { to: '/', text: 'Bench', also: '/' },
    { to: '/tape', text: 'Tape', also: '/machines/:id/tape' },
    { to: '/water', text: 'Water', also: '/machines/:id/water' },
    { to: '/mix', text: 'Mix', also: '/machines/:id/mix' },
    { to: '/log', text: 'Log', also: '/machines/:id/log' },
    { to: '/machines/new', text: 'Add', also: '/machines/new' },
  ] as const
</script>

<svelte:window onkeydown={key} />
{#if !running}
  <Band />
  <header class="border-ink flex flex-wrap items-baseline gap-x-6 gap-y-0 border-b-2 px-5 pt-3 md:gap-x-7 md:px-8">
    <a href={p('/')} class="mr-3 pb-2 text-[22px] font-extrabold" style="font-stretch:66%">Fresh Anvil</a>
    <nav class="flex gap-x-5 max-md:order-3 max-md:w-full md:gap-x-7" aria-label="Screens">
      {#each links as l (l.to)}
        <a href={p(l.to)} class="nav" aria-current={isActive(l.to) || isActive(l.also) ? 'page' : undefined}>{l.text}{#if l.to === '/machines/new'}<span class="max-md:sr-only">{' a machine'}</span>{/if}</a>
      {/each}
    </nav>
    <div class="text-ink-2 narrow ml-auto flex items-baseline gap-5 pb-2">
      <a class="underline underline-offset-4" href={p('/preferences')}>Preferences</a>
      <button type="button" class="cursor-pointer underline max-md:hidden underline-offset-4" onclick={() => (help.shown = true)}>Keys</button>
      <span class="max-md:hidden">{stamp(now.toISOString(), zone)}</span>
    </div>
  </header>
{/if}
<main class="flex grow flex-col"><Router /></main>
<HowWorked />
<Help />

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
