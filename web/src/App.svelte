<script lang="ts">
  import { Router } from 'sv-router'
  import Band from './ui/Band.svelte'
  import Help from './ui/Help.svelte'
  import HowWorked from './ui/HowWorked.svelte'
  import { localZone, stamp } from './ui/format'
  import { leave, loadMe, may, me, shut } from './data/me.svelte'
  import { isActive, navigate, p, route } from './router'
  import { askBench, help, loadHazards, loadPreferences, singleKeys, startTheme } from './data/state.svelte'

  startTheme()
  void loadMe()
  // once somebody is in, and at once where nobody has to be
  const closed = $derived(shut() || route.pathname === '/pair')
  // what a role may not do is not offered: app.css hides it by this
  $effect(() => {
    const all = me.value?.may
    if (all) document.documentElement.dataset.may = all.join(' ')
    else delete document.documentElement.dataset.may
  })
  $effect(() => {
    if (closed) return
    void loadPreferences()
    void leadBack()
  })

  // whoever opens a page while detergent or acid stands in a machine with its run open is
  // led back to it, once
  async function leadBack() {
    if (/\/runs\//.test(location.pathname)) return
    try {
      const { machines } = await askBench()
      const left = machines.find(
        (m) =>
          m.open_run &&
          !m.open_run.unreadable &&
          m.hazards.some((h) => h.run_id === m.open_run?.id || m.open_run?.parts.includes(h.part)),
      )
      if (left?.open_run)
        await navigate('/machines/:id/runs/:run', { params: { id: left.id, run: left.open_run.id }, replace: true })
    } catch {
      // the band leads there too
    }
  }
  let now = $state(new Date())
  $effect(() => {
    const tick = setInterval(() => (now = new Date()), 10_000)
    return () => clearInterval(tick)
  })
  // a device that is nobody's stands at a bar: the close list of its machine is all it opens
  $effect(() => {
    if (!closed && me.value?.device && route.pathname === '/') void navigate('/bar', { replace: true })
  })
  $effect(() => {
    void route.pathname // look again on every screen
    if (!closed) void loadHazards()
  })
  // who comes to another page by a link is put at its head, as a reader of the screen would be on a page of its own
  let main = $state<HTMLElement>()
  let was = location.pathname
  $effect(() => {
    if (route.pathname === was) return
    was = route.pathname
    const at = was
    const look = setInterval(() => {
      const head = main?.querySelector<HTMLElement>('h1')
      const free = document.activeElement === document.body || document.activeElement?.closest('header')
      if (route.pathname !== at || !free) return clearInterval(look)
      if (!head) return
      clearInterval(look)
      head.tabIndex = -1
      head.style.outline = 'none'
      head.focus({ preventScroll: true })
    }, 50)
    const end = setTimeout(() => clearInterval(look), 3000)
    return () => {
      clearInterval(look)
      clearTimeout(end)
    }
  })
  const running = $derived(/\/(runs\/|bar$)/.test(route.pathname))

  function key(event: KeyboardEvent) {
    if (
      event.ctrlKey ||
      event.metaKey ||
      event.altKey ||
      (event.target as HTMLElement).closest('input, select, textarea, dialog[open]')
    )
      return
    if (event.key === '?') help.shown = true
    if (!singleKeys.on) return
    if (running) return
    if (event.key === 'b') void navigate('/')
    if (event.key === 'm') void navigate('/mix')
    if (event.key === 't') void navigate('/tape')
    if (event.key === 'w') void navigate('/water')
    if (event.key === 'l') void navigate('/log')
    if (event.key === 'a' && may('keeper')) void navigate('/machines/new')
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
<a
  class="skip"
  href="#main"
  onclick={(e) => {
    e.preventDefault()
    main?.focus()
  }}>Skip to the page</a
>
{#if !running && !closed}
  <Band />
  <header class="border-ink flex flex-wrap items-baseline gap-x-6 gap-y-0 border-b-2 px-5 pt-3 md:gap-x-7 md:px-8">
    <a href={p('/')} class="mr-3 pb-2 text-[22px] font-extrabold [font-stretch:66%]">Fresh Anvil</a>
    <nav class="flex gap-x-5 max-md:order-3 max-md:w-full md:gap-x-7" aria-label="Screens">
      {#each links as l (l.to)}
        <a
          href={p(l.to)}
          class={['nav', l.to === '/machines/new' && 'for-keeper']}
          aria-current={isActive(l.to) || isActive(l.also) ? 'page' : undefined}
          >{l.text}{#if l.to === '/machines/new'}<span class="max-md:sr-only">{' a machine'}</span>{/if}</a
        >
      {/each}
    </nav>
    <div class="text-ink-2 narrow ml-auto flex items-baseline gap-5 pb-2">
      {#if me.value?.name}<span class="max-md:hidden">{me.value.name}</span>
        <button type="button" class="cursor-pointer underline underline-offset-4" onclick={() => leave(false)}
          >Log out</button
        >{/if}
      <a class="underline underline-offset-4" href={p('/preferences')}>Preferences</a>
      <button
        type="button"
        class="cursor-pointer underline max-md:hidden underline-offset-4"
        onclick={() => (help.shown = true)}>Keys</button
      >
      <span class="max-md:hidden">{stamp(now.toISOString(), localZone)}</span>
    </div>
  </header>
{/if}
<main id="main" class="flex grow flex-col outline-none" tabindex="-1" bind:this={main}>
  {#if closed}{#await import('./screens/door/Door.svelte') then { default: Door }}<Door />{/await}{:else}<Router
    />{/if}
</main>
<HowWorked />
<Help />

<style>
  .skip {
    position: absolute;
    top: 0;
    left: 0;
    z-index: 9;
    padding: 12px 20px;
    background: var(--color-ink);
    color: var(--color-paper);
    font-weight: 700;
    transform: translateY(-110%);
  }
  .skip:focus {
    transform: none;
  }
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
