<!-- The live run: one step at a time, readable from two metres. -->
<script lang="ts">
  import { untrack } from 'svelte'
  import { may } from '../../data/me.svelte'
  import './run.css'
  import './beside.css'
  import { problemOf, type Schemas } from '../../data/api'
  import { Live } from '../../data/live.svelte'
  import { help, loadHazards, opened, singleKeys } from '../../data/state.svelte'
  import { p, route } from '../../router'
  import { clock } from '../../ui/format'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import VoidRun from '../shared/VoidRun.svelte'
  import Asked from './Asked.svelte'
  import Bottom from './Bottom.svelte'
  import CircuitMap from './CircuitMap.svelte'
  import Clocked from './Clocked.svelte'
  import Ended from './Ended.svelte'
  import Going from './Going.svelte'
  import Leaving from './Leaving.svelte'
  import Side from './Side.svelte'
  import { Sounds } from './sounds.svelte'
  import { minutes, Stage } from './stage.svelte'
  import Trouble from './Trouble.svelte'

  const params = $derived(route.params as { id?: string; run?: string })
  let trouble = $state<HTMLDialogElement>()
  let leaving = $state<HTMLDialogElement>()
  let going = $state<HTMLDialogElement>()
  const live = $derived(new Live(params.run ?? ''))
  const s = $derived(new Stage(live, () => leaving?.showModal()))
  const run = $derived(live.run)
  const step = $derived(run?.step)
  const stepId = $derived(run?.step.id) // the same while the run is only asked for again
  const sounds = new Sounds()
  // what is in the machine is drawn where acid, its rinse or an outlet is at stake
  const sour = $derived(step?.phase === 'acid' || step?.phase === 'rinse')
  const mapped = $derived(
    run?.descale && !run.outcome && !step?.reads && (step?.outlet || sour || (s.soaking && run.inside.any)),
  )
  const pulseWords = $derived(
    (s.pulsing || s.resting) && live.segment && !s.pushing
      ? `, pulse ${live.segment.pulse} of ${step?.pulses}`
      : '',
  )

  $effect(() => {
    const it = live
    void it.load()
    const unfollow = it.follow()
    let frame = 0
    let last = 0
    const loop = (at: number) => {
      if (at - last >= 30) {
        // thirty times a second is as smooth as a bar needs
        last = at
        it.tick()
      }
      frame = requestAnimationFrame(loop)
    }
    frame = requestAnimationFrame(loop)
    // a hidden page gets no frames, but the step goes on
    const slow = setInterval(() => it.tick(), 1000)
    // a lid that was shut may have stopped this device's clock: ask the server
    const woken = () => void it.load()
    document.addEventListener('visibilitychange', woken)
    window.addEventListener('online', woken)
    return () => {
      unfollow()
      document.removeEventListener('visibilitychange', woken)
      window.removeEventListener('online', woken)
      cancelAnimationFrame(frame)
      clearInterval(slow)
    }
  })
  $effect(() => {
    void stepId
    s.forget()
    if (innerWidth <= 1000) scrollTo(0, 0) // a new step begins at its head
  })
  $effect(() => {
    void s.meaning
    untrack(() => s.turned())
  })
  $effect(() => {
    void s.reports
    untrack(() => s.moved())
  })
  $effect(() => {
    if (s.moment) sounds.play(s.on ? 'on' : s.kind === 'off' ? 'off' : 'ready', s.moment)
  })
  $effect(() => {
    if (s.soakTurn >= 0) sounds.play('overdue', `soak ${s.soakTurn}`)
  })
  $effect(() => {
    void s.moment // what stands beside the list may have made it shorter
    if (innerWidth <= 1000) return // there it stands by the buttons, and the page would scroll with it
    queueMicrotask(() => document.querySelector('.lines .now')?.scrollIntoView({ block: 'nearest' }))
  })
  $effect(() => {
    if (s.nags >= 0) sounds.play('overdue', `${s.moment} ${s.nags}`)
  })
  $effect(() => {
    if (s.ringing >= 0) sounds.play('overdue', `away ${s.ringing}`)
  })
  $effect(() => sounds.keepAwake(Boolean(run && !run.outcome)))
  $effect(() => {
    if (run?.outcome) void loadHazards()
  })
  $effect(() => {
    const now = run?.outcome
      ? 'ended'
      : run?.absence
        ? s.ringing >= 0
          ? '! time to be back'
          : `away ${minutes(s.awayLeft)}`
        : s.nagging
          ? `! waiting ${minutes(s.standing)}`
          : s.pulsing
            ? `${s.on ? 'ON' : 'OFF'} ${s.seconds}`
            : s.soaking
              ? `${step?.head} ${minutes(live.left)}`
              : (step?.head ?? 'Run')
    document.title = `${now} · ${run?.machine_name ?? 'Fresh Anvil'}`
  })

  function key(event: KeyboardEvent) {
    if (
      !may('closer') ||
      event.repeat ||
      leaving?.open ||
      trouble?.open ||
      going?.open ||
      opened.path.length > 0 ||
      help.shown
    )
      return
    const acts: Record<string, (() => void) | false | undefined> = {
      p: s.allowed('hold') && (() => live.press('hold')),
      n: s.allowed('no_pressure') && (() => live.press('no_pressure')),
      d: s.allowed('nothing_came') && (() => live.press('nothing_came')),
      c: s.allowed('away') && (() => going?.showModal()),
      x: s.allowed('stop') && (() => leaving?.showModal()),
      h: (run?.help.length ?? 0) > 0 && (() => trouble?.showModal()),
      s: () => sounds.mute(!sounds.muted),
      w: () => s.say(!s.brief),
    }
    const act = singleKeys.on && acts[event.key]
    const typing = (event.target as HTMLElement).closest('input:not([type="radio"]), select, textarea')
    if (act && !typing) return act()
    const nth = s.allowed('heard') && !typing ? step?.ways?.[Number(event.key) - 1] : undefined
    if (nth) {
      s.what = nth.what as Schemas['Press']['what']
      return
    }
    if (event.key !== ' ') return
    // a picked choice has said what it can: space goes on; all else keeps its own space
    const on = event.target as HTMLElement
    if (
      on.closest('button, input:not([type="radio"]:checked), select, a, summary') ||
      !s.main ||
      s.main.off ||
      s.main.byHand
    )
      return
    event.preventDefault()
    // the same key began it: it holds only once a thumb has had time to leave it; "p" holds at once
    if (!s.fresh) s.go()
  }
  const cautionShort = $derived(
    step?.cautions.find((c) => c.danger === 'pressure')?.text ?? step?.cautions[0]?.text,
  )
</script>

<svelte:window onkeydown={key} />

<div class="run">
  {#if live.problem && !run}
    {@const problem = problemOf(live.problem)}
    <div class="grid max-w-3xl gap-4 p-5 md:p-8">
      {#if problem.code === 'run_unreadable'}
        <h1 class="head-voice text-[34px]">{problem.title}</h1>
        <p class="say">{problem.detail}</p>
        <VoidRun run={params.run ?? ''} onended={() => void live.load()} />
      {:else}
        <ProblemNote {problem} />
      {/if}
      <a class="btn btn-primary justify-self-start" href={p('/')}>Go to the bench</a>
    </div>
  {/if}
  {#if run && step}
    {#if run.practice}
      <p class="practice"><b>Practice.</b> No machine, no powder: nothing is written down.</p>
    {:else if run.inside.any}
      <div class="band" role="alert">
        <div class="flex flex-wrap justify-between gap-x-8">
          <span
            >{run.inside.text}{#if s.nagging}. <b>Waiting for you: {minutes(s.standing)}</b>{/if}</span
          >
          {#if cautionShort && !run.outcome}<span class="max-md:hidden">{cautionShort}</span>{/if}
        </div>
      </div>
    {/if}
    <div class="stage" class:inverse={s.on && !run.outcome}>
      <section class="show" aria-live="off">
        <div class="where">
          <span
            >{run.machine_name}{#if s.washing}, <b class:group={s.several}>{run.outcome ? run.where : run.here}</b
              >{/if}{pulseWords}</span
          >
          <span
            >{#if !run.outcome && s.at > 0}step {s.at} of {run.lines.length}{#if run.likely_end}<span class="ends"
                  >, done about {clock(run.likely_end, run.zone)}</span
                >{/if}{run.speed > 1 ? ', ' : ''}{/if}{#if run.speed > 1}at {run.speed} times the speed{/if}</span
          >
        </div>
        {#if run.outcome}
          <Ended {s} />
        {:else if run.absence || ((s.pulsing || s.soaking) && !s.cut)}
          <Clocked {s} />
        {:else}
          <Asked {s} />
        {/if}
        {#if mapped && run.descale}
          <CircuitMap descale={run.descale} now={live.now} moving={s.pulsing} />
        {/if}
      </section>
      <aside class="side">
        <Side {s} />
        <Bottom
          {s}
          {sounds}
          onaway={() => going?.showModal()}
          onleave={() => leaving?.showModal()}
          ontrouble={() => trouble?.showModal()}
        />
      </aside>
    </div>
    <Trouble {run} bind:dialog={trouble} />
    <Going
      {run}
      bind:dialog={going}
      mayRinse={s.allowed('rinse_now')}
      onrinse={() => void live.press('rinse_now')}
      onaway={(of) => void live.press('away', { minutes: of })}
    />
    <Leaving
      {run}
      bind:dialog={leaving}
      mayRinse={s.allowed('rinse_now')}
      onrinse={() => void live.press('rinse_now')}
      onstop={(nothing_in) => void live.press('stop', { nothing_in })}
    />
  {/if}
</div>
