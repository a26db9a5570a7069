<!-- The live run: one step at a time, readable from two metres. -->
<script lang="ts">
  import { problemOf, type Schemas } from '../../data/api'
  import Around from '../../ui/Around.svelte'
  import Cautions from '../../ui/Cautions.svelte'
  import CircuitMap from './CircuitMap.svelte'
  import CupReading from './CupReading.svelte'
  import DescaleEnd from './DescaleEnd.svelte'
  import { amount, clock, figure, groupOf, inHours, inWords, poured, preferred, round, weekday, worked } from '../../ui/format'
  import DoseWords from '../../ui/DoseWords.svelte'
  import { Live } from '../../data/live.svelte'
  import { Sounds } from './sounds.svelte'
  import FirstDischarge from './FirstDischarge.svelte'
  import Going from './Going.svelte'
  import Leaving from './Leaving.svelte'
  import Lesson from '../shared/Lesson.svelte'
  import Num from '../../ui/Num.svelte'
  import CoolingWait from './CoolingWait.svelte'
  import PartPicture from '../../ui/PartPicture.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import SeenList from '../shared/SeenList.svelte'
  import { p, route } from '../../router'
  import SpoonPicture from '../../ui/SpoonPicture.svelte'
  import StartWash from '../shared/StartWash.svelte'
  import StripReading from './StripReading.svelte'
  import VoidRun from '../shared/VoidRun.svelte'
  import { help, loadHazards, opened } from '../../data/state.svelte'

  const params = $derived(route.params as { id?: string; run?: string })
  const live = $derived(new Live(params.run ?? ''))
  const run = $derived(live.run)
  const step = $derived(run?.step)
  const stepId = $derived(run?.step.id) // the same while the run is only asked for again
  const pulsing = $derived(live.segment?.kind === 'on' || live.segment?.kind === 'off')
  const on = $derived(live.segment?.kind === 'on')
  const resting = $derived(live.segment?.kind === 'rest')
  const soaking = $derived(live.segment?.kind === 'soak' || resting)
  const ofMachine = $derived(run?.of_machine === true)
  const washing = $derived(!ofMachine || run?.detergent.in === true)
  const pushing = $derived(step?.kind === 'push' || step?.kind === 'sips')
  const cut = $derived(run?.descale?.cut === true)
  // a wait of more than half an hour is told by the clock on the wall
  const longWait = $derived(live.segment?.kind === 'soak' && (step?.waits_s ?? 0) > 1800)
  const at = $derived((run?.lines.findIndex((l) => l.status === 'now') ?? -1) + 1)
  const several = $derived((run?.groups.length ?? 0) > 1)
  // how often nothing came out of the present head; after the second time nothing is begun any more
  const head = $derived(run?.groups.find((g) => g.part === run?.part))
  const pressed = $derived(head?.blind ?? 0)
  const blocked = $derived(head?.barred ?? false)
  const allowed = (kind: Schemas['Press']['kind']) => run?.allowed.includes(kind) ?? false
  // at one's own pace the seconds count up, and a press ends each part
  const ownPace = $derived(allowed('turn'))
  const seconds = $derived(ownPace ? Math.floor(live.since) : Math.max(1, Math.ceil(live.left - 0.001)))
  const part = $derived(on ? (step?.on_s ?? 0) : (step?.off_s ?? 0))
  const enough = $derived(!ownPace || live.since >= part)
  let own = $state(false)
  let cup = $state<Partial<Schemas['Cup']>>({})
  const picked = $derived(cup.colour && cup.foam && cup.grains ? (cup as Schemas['Cup']) : undefined)
  let what = $state<Schemas['Press']['what']>()
  const pickedWay = $derived(step?.ways?.find((w) => w.what === what))
  let strip = $state<Schemas['Strip']>()
  let mixed = $state<number | null>(null) // what was weighed out, where it is not what the plan says
  let trouble = $state<HTMLDialogElement>()
  const sounds = new Sounds()
  const nagEvery = 15 // run seconds
  // a run that stands still with detergent in the group is not to be forgotten
  const standing = $derived(run && !run.outcome && run.inside.any && !pulsing && !soaking ? ((live.now - Date.parse(run.segment.starts_at)) / 1000) * run.speed : 0)
  const patience = $derived(run?.patience_s ?? 0)
  // a soak beside what the hands do, and how long it has been over
  const over = (s: Schemas['Soaking']) => ((live.now - Date.parse(s.ends_at)) / 1000) * (run?.speed ?? 1)
  const soakOver = $derived(Math.max(-1, ...(run?.soaks ?? []).map(over)))
  const nagging = $derived(standing > patience && !run?.absence)
  // somebody is called away: how long there is left, in run seconds; below 0 it rings
  const awayLeft = $derived(run?.absence ? ((Date.parse(run.absence.until) - live.now) / 1000) * run.speed : 0)
  const ringing = $derived(run?.absence && !run.outcome && awayLeft <= 0 ? Math.floor(-awayLeft / nagEvery) : -1)
  let first = $state<Schemas['Press']['first']>()
  let leaving = $state<HTMLDialogElement>()
  let going = $state<HTMLDialogElement>()

  $effect(() => {
    const it = live
    void it.load()
    const unfollow = it.follow()
    let frame = 0
    let last = 0
    const loop = (at: number) => {
      if (at - last >= 30) { // thirty times a second is as smooth as a bar needs
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
    cup = {}
    first = undefined
    what = undefined
    strip = undefined
    mixed = null
  })
  const moment = $derived(run && !run.outcome ? `${step?.id} ${live.segment?.index} ${live.segment?.kind}` : '')
  $effect(() => {
    if (!moment) return
    const kind = live.segment?.kind
    sounds.play(kind === 'on' ? 'on' : kind === 'off' ? 'off' : 'ready', moment)
  })
  const soakTurn = $derived(soakOver >= 0 ? Math.floor(soakOver / nagEvery) : -1)
  $effect(() => {
    if (soakTurn >= 0) sounds.play('overdue', `soak ${soakTurn}`)
  })
  const turn = $derived(nagging ? Math.floor((standing - patience) / nagEvery) : -1)
  $effect(() => {
    void stepId
    if (innerWidth <= 1000) scrollTo(0, 0) // a new step begins at its head
  })
  $effect(() => {
    void moment // what stands beside the list may have made it shorter
    if (innerWidth <= 1000) return // there it stands by the buttons, and the page would scroll with it
    queueMicrotask(() => document.querySelector('.lines .now')?.scrollIntoView({ block: 'nearest' }))
  })
  $effect(() => {
    if (turn >= 0) sounds.play('overdue', `${moment} ${turn}`)
  })
  $effect(() => {
    if (ringing >= 0) sounds.play('overdue', `away ${ringing}`)
  })
  $effect(() => sounds.keepAwake(Boolean(run && !run.outcome)))
  $effect(() => {
    if (run?.outcome) void loadHazards()
  })
  $effect(() => {
    const now = run?.outcome ? 'ended' : run?.absence ? (ringing >= 0 ? '! time to be back' : `away ${minutes(awayLeft)}`) : nagging ? `! waiting ${minutes(standing)}` : pulsing ? `${on ? 'ON' : 'OFF'} ${seconds}` : soaking ? `${step?.head} ${minutes(live.left)}` : (step?.head ?? 'Run')
    document.title = `${now} · ${run?.machine_name ?? 'Fresh Anvil'}`
  })

  const minutes = (s: number) => `${Math.floor(Math.ceil(s) / 60)}:${String(Math.ceil(s) % 60).padStart(2, '0')}`
  type Main = { text: string; act: () => void; off?: boolean; byHand?: boolean }
  const main = $derived.by((): Main | undefined => {
    if (!run || !step || run.outcome) return undefined
    const tray = (run.empty_tray ? 'Tray is empty. ' : '') + (run.fill_tank ? 'Tank is full. ' : '')
    if (allowed('returned')) return { text: 'I am back', act: () => live.press('returned') }
    if (allowed('back')) return { text: 'Power is back', act: () => live.press('back') }
    if (ownPace) return { text: !enough ? (on ? 'Build pressure' : 'Let it vent') : on ? 'Pump is off' : 'Go on', act: () => enough && live.press('turn'), off: !enough }
    if (resting) return { text: 'Pause', act: () => live.press('hold') }
    if (pulsing) return { text: pushing ? 'Stop the pump' : on ? 'Stop pulse' : 'Pause', act: () => live.press('hold') }
    // the space bar must not vouch for a head that may be under pressure
    if (allowed('opened') && allowed('begin')) return { text: 'Pulse again', act: () => live.press('begin', { own }), byHand: true }
    if (allowed('opened')) return blocked ? { text: 'Stop here', act: () => leaving?.showModal() } : { text: allowed('nothing_came') ? 'Water came' : 'It has opened', act: () => live.press('opened'), byHand: true }
    if (allowed('begin')) return { text: tray + (run.segment.kind === 'held' ? (pushing ? 'Go on: pump on' : 'Pulse again') : step.button), act: () => live.press('begin', { own }) }
    if (allowed('reading')) return { text: picked ? step.button : 'Pick one in each row', act: () => picked && live.press('reading', { cup: picked }), off: !picked }
    if (allowed('measured')) return { text: strip ? step.button : 'Pick the pH', act: () => strip && live.press('measured', { strip }), off: !strip }
    if (allowed('graded')) return { text: first ? step.button : 'Pick one', act: () => first && live.press('graded', { first }), off: !first }
    if (allowed('heard')) return { text: what ? step.button : 'Pick one', act: () => what && live.press('heard', { what }), off: !what }
    if (soaking && allowed('done')) return { text: step.ends ?? 'It has finished', act: () => live.press('done') }
    if (step.mix && allowed('done')) return { text: tray + step.button, act: () => live.press('done', mixed === null ? {} : { mixed }), off: mixed !== null && !(mixed >= 0) }
    if (allowed('again')) return { text: step.reads ? 'Rinse on' : 'Two more pulses', act: () => live.press('again') }
    if (allowed('done')) return { text: tray + step.button, act: () => live.press('done') }
    return undefined
  })

  function press(event: MouseEvent, act: () => void) {
    if (event.detail > 0) (event.currentTarget as HTMLElement).blur() // so that space means the main button again
    act()
  }
  function key(event: KeyboardEvent) {
    if (event.repeat || leaving?.open || trouble?.open || going?.open || opened.path.length > 0 || help.shown) return
    if (event.key === 'n' && allowed('no_pressure')) return void live.press('no_pressure')
    if (event.key === 'd' && allowed('nothing_came')) return void live.press('nothing_came')
    if (event.key === 'c' && allowed('away')) return going?.showModal()
    if (event.key === 'x' && allowed('stop')) return leaving?.showModal()
    if (event.key === 'h' && run && run.help.length > 0) return trouble?.showModal()
    if (event.key === 's') return sounds.mute(!sounds.muted)
    const nth = allowed('heard') ? step?.ways?.[Number(event.key) - 1] : undefined
    if (nth) {
      what = nth.what as Schemas['Press']['what']
      return
    }
    if (event.key !== ' ') return
    // a picked choice has said what it can: space goes on; all else keeps its own space
    const on = event.target as HTMLElement
    if (on.closest('button, input:not([type="radio"]:checked), select, a, summary') || !main || main.off || main.byHand) return
    event.preventDefault()
    main.act()
  }
  // how much of the rinse is done; how strong it stands before it, the map shows
  function counted(c: Schemas['AcidNow']): string {
    const rinsed = c.least.unit === 'refills' ? `${c.rinsed} of ${round(c.least.value)} refills` : `${figure(preferred(c.rinsed, 'L').value)} of ${amount(c.least.value, 'L')} rinsed`
    if (c.enough) return 'rinsed enough: prove it'
    return c.rinsed > 0 ? rinsed : 'acid in it'
  }
  const measured = (w: Schemas['Worked']) => (w.unit === 'sachets' ? `${round(w.value)} ${w.value === 1 ? 'sachet' : 'sachets'}` : amount(w.value >= 10 ? Math.round(w.value) : w.value, w.unit))
  const cautionShort = $derived(step?.cautions.find((c) => c.danger === 'pressure')?.text ?? step?.cautions[0]?.text)
</script>

<svelte:window onkeydown={key} />

{#snippet found(f: Schemas['Finding'])}
  <div class={f.verdict === 'fine' ? 'fine' : 'caution'} role="alert">
    {#if f.verdict === 'stop' && pressed > 0}<h1 class="huge-voice text-stop mb-3 text-[clamp(36px,5vw,64px)]">{f.title}</h1>
    {:else}<h2 class="head-voice text-[30px]" class:text-stop={f.verdict === 'stop'}>{f.title}</h2>{/if}
    {#each f.because as r}<p>{r.text}</p>{/each}
    {#each f.next ?? [] as n}<p><b>{n}</b></p>{/each}
    {#if f.symptom && run}<a class="inline-flex min-h-11 items-center underline underline-offset-4" href="{p('/machines/:id/diagnose', { params: { id: run.machine_id } })}?symptom={f.symptom}&run={run.id}">Look for the cause</a>{/if}
  </div>
{/snippet}

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
        <span>{run.inside.text}{#if nagging}. <b>Waiting for you: {minutes(standing)}</b>{/if}</span>
        {#if cautionShort && !run.outcome}<span class="max-md:hidden">{cautionShort}</span>{/if}
      </div>
    </div>
  {/if}
  <div class="stage" class:inverse={on && !run.outcome}>
    <section class="show" aria-live="off">
      <div class="where">
        <span>{run.machine_name}{#if washing}, <b class:group={several}>{run.outcome ? run.where : run.here}</b>{/if}{#if (pulsing || resting) && live.segment && !pushing}, pulse {live.segment.pulse} of {step.pulses}{/if}</span>
        <span>{#if !run.outcome && at > 0}step {at} of {run.lines.length}{run.speed > 1 ? ', ' : ''}{/if}{#if run.speed > 1}at {run.speed} times the speed{/if}</span>
      </div>

      {#if run.outcome}
        <div class="middle">
          {#if run.note && run.outcome !== 'done'}
            <h1 class="huge-voice big" class:text-stop={run.outcome === 'stopped_unsafe'}>{run.outcome === 'stopped_unsafe' ? 'Stopped, unsafe' : 'Stopped.'}</h1>
            <p class="say">{run.note}</p>
            {#if run.inside.any}<p class="say"><b>{run.inside.text}.</b></p>{/if}
          {:else if run.outcome === 'done'}
            {#if run.note}<p class="say">{run.note}</p>{/if}
            <h1 class="huge-voice big">{run.practice ? 'Practised.' : run.over}</h1>
            {#if run.descale}
              <DescaleEnd {run} />
            {:else if run.groups.length === 0}
              <p class="say">{run.practice ? 'Nothing is written down.' : 'Written down.'}{#if run.next?.days && run.next.task === run.task && !run.practice}{' '}The next comes <Around due={run.next} zone={run.zone} />.{/if}</p>
            {:else if run.practice}
              {#each run.groups as g (g.part)}<p class="say">{several ? `Group ${groupOf(g.part)}: ` : ''}{g.soapy_pulses} pulses with detergent, {g.rinsed} of water.</p>{/each}
              <p class="say">Nothing is written down.</p>
            {:else if several}
              {#each run.groups as g (g.part)}<p class="say">Group {groupOf(g.part)}: {g.soapy_pulses > 0 ? `${g.soapy_pulses} pulses with detergent, ` : ''}{g.rinsed} of water{g.cups.length > 0 ? ', cup clear' : ''}.</p>{/each}
              <p class="say">Written down for each group.</p>
            {:else if run.soapy_pulses === 0 && run.cups.length === 0}
              <p class="say">Written down: {run.detergent.rinsed} pulses of water.</p>
            {:else}
            <p class="say">Written down: {run.wash.dose ? `${run.wash.dose.form === 'tablets' ? 'one tablet' : worked(run.wash.dose.mass)}, ${run.soapy_pulses} pulses with it, ` : ''}{run.detergent.rinsed} of water, cup clear.</p>
            {/if}
            {#if run.after && !run.practice && !run.descale}<p class="say">{run.after}</p>{/if}
            {#if run.seen?.length}<SeenList list={run.seen} groups={several ? 2 : 1} machine={run.machine_id} />{/if}
            {#if run.next?.days && run.next.state !== 'overdue' && groupOf(run.next.part) > 0 && !run.descale && run.groups.length > 0}
              {@const next = run.next}
              <p class="say">Next: {next.title.toLowerCase()}, <Around due={next} zone={run.zone} />.</p>
            {/if}
            {#if run.lesson}<Lesson machine={run.machine_id} lesson={run.lesson} />{/if}
            {#if run.then}
              <StartWash machine={run.machine_id} parts={[run.then.part]} text="Go on with group {groupOf(run.then.part)}" />
            {/if}
          {:else if run.practice}
            <h1 class="huge-voice big">Stopped.</h1>
            <p class="say">Practice: nothing is written down. With real powder, the group would now be marked until it is rinsed.</p>
          {:else if run.outcome === 'stopped'}
            <h1 class="huge-voice big">Stopped.</h1>
            {#if run.descale}
              <p class="say">{run.inside.any ? '' : 'No acid is in. '}Put the filter back in, and see that every drain is shut.</p>
              <DescaleEnd {run} />
            {:else if several}
              {#each run.groups as g (g.part)}<p class="say">Group {groupOf(g.part)}: {g.outcome === 'done' ? 'done, and written down' : g.rinsed > 0 ? 'rinsed out; it does not count as done' : 'no detergent went in; it does not count as done'}.</p>{/each}
            {:else}
              <p class="say">{run.groups.length === 0 ? '' : run.detergent.rinsed > 0 ? 'The detergent is rinsed out. ' : 'No detergent went in. '}Nothing is counted as done.{#if run.groups.length === 0}{' '}<b>Do not switch it on before every part is back, taps and drains shut, the supply open.</b>{/if}</p>
            {/if}
          {:else}
            {@const left = run.groups.filter((g) => g.detergent).map((g) => g.part)}
            {@const shut = run.groups.filter((g) => g.blind > 0).map((g) => g.part)}
            <h1 class="huge-voice big text-stop">Stopped, unsafe</h1>
            {#if run.descale}<DescaleEnd {run} />{/if}
            {#if shut.length > 0}<p class="say"><b>The head of {inWords(shut)} may still be under pressure.</b> Machine off, and leave the handle locked until it is cold.</p>{/if}
            {#if left.length > 0}
            <p class="say"><b>Detergent is in {inWords(left)}.</b> No drinks from there until it is rinsed, or a technician has seen to it. Left in, it dries hard and can freeze the valve.</p>{/if}
          {/if}
        </div>
      {:else if run.absence}
        <h1 class="huge-voice soak" class:text-stop={ringing >= 0}>{ringing >= 0 ? 'Time to be back' : 'Called away'}</h1>
        <div class="pulse"><span class="seconds wide huge-voice" class:wider={Math.abs(awayLeft) >= 600} data-away={awayLeft.toFixed(0)}>{ringing >= 0 ? `+${minutes(-awayLeft)}` : minutes(awayLeft)}</span></div>
        <div>{#each run.absence.do as d (d)}<p class="say mt-1">{d}</p>{/each}</div>
      {:else if pulsing && !cut}
        <h1 class="sr-only">{step.head}</h1>
        <div class="pulse">
          <span class="word huge-voice">{on ? 'ON' : 'OFF'}</span>
          <span class="seconds huge-voice" class:wide={seconds > 9} data-left={live.left.toFixed(3)}>{seconds}</span>
        </div>
        <div>
          <div class="bar"><div style:width="{(ownPace ? Math.min(1, live.since / part) : live.gone) * 100}%"></div></div>
          <div class="under">
            <span>{pushing ? step.title : on ? 'pump on, pressure building' : 'the valve vents: this is what cleans'}</span>
            <b class="num-voice whitespace-nowrap">{#if ownPace}at least {part} s{:else}next: {pushing ? (run.schedule.length > 1 ? 'the pump rests' : 'off') : on ? `OFF ${step.off_s} s` : live.segment?.pulse === step.pulses ? 'done' : `ON ${step.on_s} s`}{/if}</b>
          </div>
        </div>
      {:else if soaking && !cut}
        {#if run.finding && !resting}{@render found(run.finding)}{/if}
        <h1 class="huge-voice soak">{resting ? 'Pump rests' : step.kind === 'sips' ? 'Off: it stands' : step.head}</h1>
        {#if longWait && live.segment?.ends_at}
          <div><p class="until huge-voice" data-left={live.left.toFixed(3)}>{clock(live.segment.ends_at, run.zone)}</p><p class="say">{weekday(live.segment.ends_at, run.zone)}, in {inHours(live.left)}{#if step.length}: <Num worked={step.length} text="how that comes about" />{/if}.</p>{#if run.descale}<CoolingWait machine={params.id ?? ''} zone={run.zone} since={live.segment.starts_at} />{/if}</div>
        {:else}
          <div class="pulse"><span class="seconds wide huge-voice" class:wider={live.left >= 600 || run.descale} data-left={live.left.toFixed(3)}>{minutes(live.left)}</span></div>
        {/if}
        <div>
          <div class="bar"><div style:width="{live.gone * 100}%"></div></div>
          {#if resting}
            <p class="say mt-2">It has run nearly as long as it may. Leave it off; {pushing ? 'then the pump goes on again' : 'the next pulse begins'} by itself.</p>
          {:else if step.kind === 'sips'}
            <p class="say mt-1">{#if step.pulses !== 1}Sip {live.segment?.pulse} of {step.pulses}. {/if}The machine is off. {live.segment?.pulse === step.pulses ? 'The next step follows.' : 'Be ready: ON comes by itself.'}</p>
          {:else}
            {#each step.do as d (d)}<p class="say mt-1">{d}</p>{/each}
          {/if}
        </div>
      {:else}
        <div class="middle">
          {#if run.finding}
            {@render found(run.finding)}
          {/if}
          {#if step.mix}
            <h1 class="huge-voice dose"><Num worked={step.mix.measure} text={measured(step.mix.measure)} /></h1>
            <p class="head-voice text-[44px]">in <Num worked={step.mix.water} text={poured(step.mix.water.value)} /> of water</p>
            {#if allowed('done')}
              <label class="say mixed">Weighed out another amount? It was <input type="number" min="0" step="any" inputmode="decimal" placeholder={figure(step.mix.measure.value >= 10 ? Math.round(step.mix.measure.value) : step.mix.measure.value)} bind:value={mixed} /> {step.mix.measure.unit}</label>
            {/if}
          {:else if cut}
            <h1 class="huge-voice big">No power</h1>
          {:else if step.doses && run.wash.dose}
            <div class="flex flex-wrap items-center gap-x-12 gap-y-4">
              <h1 class="huge-voice dose"><DoseWords dose={run.wash.dose} /></h1>
              {#if !run.wash.dose.pinch}<SpoonPicture spoon={run.wash.dose.spoon} height={240} />{/if}
            </div>
            <p class="head-voice text-[44px]">{#if run.wash.dose.form === 'powder'}<Num worked={run.wash.dose.mass} /> in the blind{:else}in the blind, for <Num worked={run.wash.dose.mass} />{/if}</p>
          {:else if run.segment.kind === 'held' && pressed > 0}
            <p class="say">Pulse {run.segment.pulse} does not count.</p>
          {:else if run.segment.kind === 'held' && step.kind === 'pulses'}
            <h1 class="huge-voice big">Held</h1>
            <p class="say">Pulse {run.segment.pulse} does not count; it comes again.</p>
          {:else}
            <h1 class="huge-voice big" class:smaller={step.kind === 'look' || step.kind === 'choose'}>{step.head}</h1>
          {/if}
          {#if step.picture && !cut}<PartPicture name={step.picture} />{/if}
          {#if run.empty_tray}<p class="say text-stop"><b>Empty the tray first.</b> It would overflow.</p>{/if}
          {#if run.fill_tank}<p class="say text-stop"><b>Fill the tank first.</b> The pump would draw air.</p>{/if}
          {#if allowed('reading')}
            <p class="say">Rinsed <b>{run.detergent.rinsed}</b> times, of at least <b><Num worked={run.wash.rinse} text={String(run.detergent.least)} /></b>. The cup has the last word.</p>
            <p class="text-[19px] max-[1000px]:order-1">{step.do.join(' ')}</p>
            <CupReading bind:cup />
          {:else if allowed('measured') && step.reads}
            {#each step.do as d (d)}<p class="say">{d}</p>{/each}
            {#key `${step.id} ${run.segment.index}`}<StripReading reads={step.reads} pads={step.pads ?? []} feed={run.descale?.feed_ph} bind:strip />{/key}
          {:else if allowed('heard')}
            <ol class="say do">{#each step.do as d (d)}<li>{d}</li>{/each}</ol>
            <div class="grid gap-2" role="radiogroup" aria-label={step.head}>
              {#each step.ways ?? [] as way, n (way.what)}
                <label class="hear"><input class="sr-only" type="radio" name="heard" value={way.what} bind:group={what} /><b class="nr" aria-hidden="true">{n + 1}</b>{way.text}</label>
              {/each}
            </div>
            {#if pickedWay?.means}<p class="say" role="status">{#if pickedWay.bad}<b>{pickedWay.means}</b>{:else}{pickedWay.means}{/if}</p>{/if}
          {:else if allowed('graded')}
            <p class="say">{step.do[0]}</p>
            <FirstDischarge bind:first />
            {#each step.do.slice(1) as d (d)}<p class="say">{d}</p>{/each}
          {:else if !(run.segment.kind === 'held') && !cut}
            <ol class="say do">
              {#each step.do as d (d)}<li>{d}</li>{/each}
              {#if step.length && step.kind === 'sips'}<li>{step.pulses === 1 ? 'It stands' : `${step.pulses} sips. Each stands`} <b><Num worked={step.length} text="{round(step.length.value)} seconds" /></b>.</li>
              {:else if step.length && pushing}<li>The pump runs <b><Num worked={step.length} text="{round(step.length.value)} seconds" /></b>, rests apart.</li>{/if}
              {#if step.flush}<li>Flush into the tray for about <b><Num worked={step.flush} text="{step.flush.value} seconds" /></b>.</li>{/if}
            </ol>
          {/if}
          {#if allowed('begin') && step.kind === 'pulses' && pressed === 0}
            <label class="say flex min-h-11 items-center gap-3"><input class="size-6 accent-[var(--color-act)]" type="checkbox" bind:checked={own} /> at my own pace: each ON and OFF when I press</label>
          {/if}
          <div class="cautions"><Cautions list={step.cautions} /></div>
        </div>
      {/if}
      {#if run.descale && !run.outcome && !step.reads && (step.outlet || step.phase === 'acid' || step.phase === 'rinse' || (soaking && run.inside.any))}
        <CircuitMap descale={run.descale} now={live.now} moving={pulsing} />
      {/if}
    </section>

    <aside class="side">
      <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
      <ol class="lines" aria-label="Steps" tabindex="0">
        {#each run.lines as line (line.id)}
          <li class={line.status} aria-current={line.status === 'now' ? 'step' : undefined}>
            <span>{#if several && line !== run.lines[0]}<i class="tag">{groupOf(line.part) || ''}</i>{/if}{line.title}</span>
            <b>{line.status === 'beside' ? 'soaking' : line.status === 'now' && pulsing && !pushing ? `${live.segment?.pulse} of ${step.pulses}` : (line.note ?? '')}</b>
          </li>
        {/each}
      </ol>
      <div class="vessels">
        {#if run.sooner_min}<p role="status"><b>In another order:</b> your hands are free, so this comes first. Over {run.sooner_min} min sooner.</p>{/if}
        {#each run.soaks as s (s.id)}
          {@const late = over(s)}
          <div class="meanwhile" class:late={late >= 0} role={late >= 0 ? 'alert' : undefined}>
            <span>{s.what}<br /><b>{late >= 0 ? `${s.text} is over: comes next` : s.text}</b></span>
            <b class="huge-voice" data-soak={s.what}>{late >= 0 ? `+${minutes(late)}` : minutes(-late)}</b>
          </div>
        {/each}
        {#if live.following}<p role="status"><b>{run.device === run.last_device ? 'The device that started leads.' : 'Another device has taken over.'}</b> This one follows. Press any button to take control.</p>{/if}
        {#if live.waiting.length > 0}<p class="caution" role="status"><b>{live.busy ? 'The server is busy.' : 'No connection.'}</b> Your press is kept and sent again.{live.unkept ? ' This browser keeps nothing: leave this page open until it is sent.' : ''}</p>{/if}
        {#each live.lost as l (l.id)}
          <div class="caution" role="alert">
            <p><b>Your press did not count:</b> {l.problem.title}.{l.problem.allowed ? ` Allowed: ${l.problem.allowed}.` : ''} {l.problem.detail ?? ''}</p>
            <div class="flex flex-wrap gap-x-5"><button type="button" class="cannot" onclick={() => live.forget(l.id)}>I have seen it</button></div>
            {#if l.problem.code === 'conflict'}<VoidRun run={run.id} onended={() => void live.load()} />{/if}
          </div>
        {/each}
        {#if run.descale && run.descale.contact_min > 0 && (step.phase || run.outcome)}
          {@const d = run.descale}
          <div class="vessel"><span>acid</span><div class="track"><div class="hatch" style:width="{Math.min(1.15, d.contact_min / d.contact_most_min) * 82}%"></div><i></i></div><b>{round(d.contact_min)} of {round(d.contact_most_min)} min</b></div>
          {#each d.circuits.filter((c) => c.ever) as c (c.id)}
            <div class="vessel"><span class="two">{c.title}</span><b class="span">{#if c.in}<Num worked={c.left} text={counted(c)} />{:else}proven clean{/if}</b></div>
          {/each}
        {/if}
        {#if run.tray && !step.phase}
          <div class="vessel"><span>tray</span><div class="track"><div class="waves" style:width="{run.tray.share * 82}%"></div><i></i></div><b><Num worked={run.tray.has} text="{figure(preferred(run.tray.has.value / 1000, 'L').value)} of {amount(run.tray.holds_ml / 1000, 'L')}" /></b></div>
        {/if}
        {#if run.tank && !step.phase}
          <div class="vessel"><span>tank</span><div class="track"><div class="waves" style:width="{run.tank.share * 82}%"></div><i></i></div><b><Num worked={run.tank.has} text="{amount(run.tank.has.value / 1000, 'L')} left" /></b></div>
        {/if}
        {#if !run.outcome}
          <div class="ways">
            {#if allowed('away')}<button type="button" class="cannot" onclick={() => going?.showModal()}>I am called away</button>{/if}
            {#if allowed('stop')}<button type="button" class="cannot" onclick={() => leaving?.showModal()}>I cannot go on</button>{/if}
            {#if run.help.length > 0}<button type="button" class="cannot" onclick={() => trouble?.showModal()}>Something is wrong</button>{/if}
            {#if allowed('cut')}<button type="button" class="cannot" onclick={() => live.press('cut')}>The power is gone</button>{/if}
            <a class="cannot" href={p('/')}>{run.practice ? 'Leave it' : 'Bench; the run goes on'}</a>
            <span class="sound">
              <button type="button" class="cannot" aria-pressed={!sounds.muted} onclick={() => sounds.mute(!sounds.muted)}>{sounds.muted ? 'Sound is off' : sounds.asleep ? 'Sound off, touch' : 'Sound is on'}</button>
              <input type="range" min="0" max="1" step="0.1" aria-label="Volume" value={sounds.volume} oninput={(e) => sounds.louder(Number(e.currentTarget.value))} />
            </span>
            {#if sounds.dark}<span class="label-voice">the screen may go dark here</span>{/if}
          </div>
        {/if}
      </div>
      <div class="buttons">
        {#if run.outcome}
          <a class="press" href={p('/')}>{run.outcome === 'stopped_unsafe' && !run.groups.some((g) => g.blind > 0) ? 'To the bench: rinse it' : 'To the bench'}</a>
          <a class="press line" href={p('/machines/:id/log', { params: { id: run.machine_id } })}>Log</a>
        {:else if main}
          <button type="button" class="press" disabled={main.off} onclick={(e) => press(e, main.act)}>{main.text}{#if !main.byHand}<small>space</small>{/if}</button>
          {#if (pulsing || resting) && !cut}
            <button type="button" class="press line" onclick={(e) => press(e, () => live.press('no_pressure'))}>{pushing ? 'No water comes' : 'No pressure'}</button>
          {/if}
          {#if allowed('nothing_came') && !cut}
            <button type="button" class="press line" onclick={(e) => press(e, () => live.press('nothing_came'))}>{pressed > 0 ? 'Still nothing' : 'Nothing came out'}</button>
          {/if}
          {#if allowed('opened') && blocked}
            <button type="button" class="press line" onclick={(e) => press(e, () => live.press('opened'))}>It has opened</button>
          {:else if allowed('opened') && allowed('begin')}
            <button type="button" class="press line" onclick={(e) => press(e, () => live.press('opened'))}>It has opened</button>
          {/if}
        {/if}
      </div>
    </aside>
  </div>

  <dialog bind:this={trouble} class="modal" aria-labelledby="trouble-title">
    <div class="modal-box border-ink bg-slip max-w-2xl border-2">
      <h2 id="trouble-title" class="head-voice text-[30px]">Something is wrong</h2>
      {#each run.help as h (h.title)}
        <details class="border-rule border-b py-1">
          <summary class="min-h-11 cursor-pointer py-2 text-[19px]"><b class:text-stop={h.verdict === 'stop'}>{h.title}</b></summary>
          {#each h.because as r}<p class="mb-1">{r.text}</p>{/each}
          {#each h.next ?? [] as n}<p class="mb-1"><b>{n}</b></p>{/each}
        </details>
      {/each}
      <a class="mt-3 inline-flex min-h-11 items-center text-[19px] underline underline-offset-4" href="{p('/machines/:id/diagnose', { params: { id: run.machine_id } })}?run={run.id}">It is something else: look for the cause</a>
      <div><button type="button" class="btn btn-primary mt-3" onclick={() => trouble?.close()}>Go on with the run</button></div>
    </div>
  </dialog>
  <Going {run} bind:dialog={going} onaway={(of) => void live.press('away', { minutes: of })} />
  <Leaving {run} bind:dialog={leaving} mayRinse={allowed('rinse_now')} onrinse={() => void live.press('rinse_now')} onstop={(nothing_in) => void live.press('stop', { nothing_in })} />
{/if}

<style>
  .stage {
    display: grid;
    grid-template-columns: 1fr 400px;
    flex-grow: 1;
    min-height: 0;
  }
  .show {
    container-type: inline-size;
    display: flex;
    flex-direction: column;
    justify-content: space-between;
    gap: 16px;
    padding: 22px 32px 24px;
    border-right: 2px solid var(--color-ink);
    min-width: 0;
  }
  .inverse .show {
    background: var(--color-ink);
    color: var(--color-paper);
  }
  .where {
    display: flex;
    justify-content: space-between;
    gap: 20px;
    font-stretch: 78%;
    font-weight: 600;
    font-size: 20px;
  }
  .where .group {
    font-size: 34px;
    line-height: 1;
  }
  .tag {
    display: inline-block;
    min-width: 1.5em;
    margin-right: 8px;
    border: 1.5px solid currentColor;
    text-align: center;
    font-style: normal;
    font-weight: 700;
  }
  .meanwhile {
    display: flex;
    align-items: center;
    justify-content: space-between;
    padding: 8px 12px;
    border: 2px solid currentColor;
    font-size: 17px;
    line-height: 1.15;
  }
  .meanwhile > b {
    font-size: 54px;
  }
  .meanwhile.late {
    background: var(--color-stop);
    border-color: var(--color-stop);
    color: var(--color-paper);
  }
  .pulse {
    display: flex;
    align-items: flex-end;
    justify-content: space-between;
    line-height: 0.72;
    flex-grow: 1;
    padding-bottom: 4vh;
  }
  .word {
    font-size: min(41cqw, 42vh, 340px);
    line-height: 0.72;
  }
  .seconds {
    font-size: min(78cqw, 80vh, 640px);
    line-height: 0.72;
  }
  .seconds.wide {
    letter-spacing: -0.03em;
    font-size: min(62cqw, 72vh, 560px);
  }
  .seconds.wider {
    font-size: min(44cqw, 34vh, 400px);
  }
  /* beside the word, two figures must fit as well */
  .word + .seconds.wide {
    font-size: min(43cqw, 72vh, 560px);
  }
  .bar {
    height: 26px;
    border: 2px solid currentColor;
  }
  .bar > div {
    height: 100%;
    background: currentColor;
  }
  .under {
    display: flex;
    justify-content: space-between;
    gap: 16px;
    margin-top: 8px;
    font-size: 19px;
  }
  .middle {
    display: flex;
    flex-direction: column;
    justify-content: center;
    gap: 18px;
    flex-grow: 1;
  }
  .big {
    font-size: clamp(56px, 8vw, 116px);
  }
  .practice {
    background: var(--color-act-soft);
    border-bottom: 2px solid var(--color-ink);
    padding: 10px 32px;
  }
  .fine {
    padding-left: 14px;
    border-left: 8px solid var(--color-ink);
  }
  .mixed input {
    width: 130px;
    height: 52px;
    margin-inline: 6px;
    padding: 0 12px;
    border: 2px solid currentColor;
    background: var(--color-slip);
    font-weight: 700;
  }
  .hear {
    display: flex;
    align-items: center;
    min-height: 60px;
    max-width: 560px;
    padding: 6px 20px;
    border: 2px solid currentColor;
    font-size: 22px;
    font-weight: 600;
    font-stretch: 80%;
    cursor: pointer;
  }
  .nr {
    min-width: 1.6em;
    font-weight: 700;
  }
  .hear:has(input:checked) {
    background: var(--color-ink);
    color: var(--color-paper);
  }
  .hear:has(input:focus-visible) {
    outline: 4px solid var(--color-act);
    outline-offset: 2px;
  }
  .ways {
    display: grid;
    grid-template-columns: auto auto;
    justify-content: space-between;
    align-items: center;
    gap: 0 12px;
    font-size: 16px;
  }
  .sound {
    display: flex;
    align-items: center;
    gap: 10px;
  }
  .sound input {
    width: 64px;
    min-height: 44px;
    accent-color: var(--color-ink);
  }
  .soak {
    font-size: clamp(64px, 9vw, 130px);
  }
  .smaller {
    font-size: clamp(44px, 4.5vw, 64px);
  }
  .dose {
    font-size: clamp(110px, 15vw, 200px);
  }
  .say {
    font-size: 24px;
    line-height: 1.3;
    max-width: 36em;
  }
  .do {
    display: grid;
    gap: 4px;
  }
  .cautions {
    display: grid;
    gap: 10px;
    max-width: 46em;
    font-size: 16px;
  }
  .side {
    background: var(--color-slip);
    display: flex;
    flex-direction: column;
    min-height: 0;
  }
  .lines {
    font-stretch: 80%;
    min-height: 0;
    overflow-y: auto;
  }
  .lines li {
    display: flex;
    justify-content: space-between;
    gap: 12px;
    padding: 6px 16px;
    border-bottom: 1px solid var(--color-rule);
  }
  .lines .gone span {
    text-decoration: line-through;
  }
  .lines .beside {
    font-weight: 700;
  }
  .lines .now {
    background: var(--color-ink);
    color: var(--color-paper);
    padding-block: 14px;
    font-size: 20px;
    font-weight: 600;
  }
  .lines b {
    font-stretch: 70%;
    white-space: nowrap;
  }
  .vessels {
    margin-top: auto;
    padding: 14px 16px;
    display: grid;
    gap: 10px;
  }
  .vessel {
    display: grid;
    grid-template-columns: 50px 1fr 96px;
    align-items: center;
    gap: 8px;
    font-size: 15px;
    font-stretch: 78%;
  }
  .vessel b {
    text-align: right;
    font-stretch: 70%;
  }
  .track {
    position: relative;
    height: 16px;
    border-bottom: 1px solid var(--color-rule);
  }
  .track i {
    position: absolute;
    left: 82%;
    top: -3px;
    height: 22px;
    border-left: 2.5px solid currentColor;
  }
  .hatch {
    height: 16px;
    color: var(--color-stop);
    background: repeating-linear-gradient(45deg, currentColor 0 2px, transparent 2px 6px);
  }
  .vessel .span {
    grid-column: 2 / -1;
  }
  .vessel .two {
    white-space: nowrap;
  }
  .until {
    font-size: min(34cqw, 44vh, 300px);
  }
  .waves {
    height: 16px;
    background: currentColor;
    mask: url("data:image/svg+xml,%3Csvg xmlns='http://www.w3.org/2000/svg' width='14' height='8'%3E%3Cpath d='M0 4q3.5-5 7 0t7 0' fill='none' stroke='%23000' stroke-width='1.8'/%3E%3C/svg%3E");
  }
  .cannot {
    display: inline-flex;
    align-items: center;
    min-height: 44px;
    text-decoration: underline;
    text-underline-offset: 4px;
    cursor: pointer;
  }
  .buttons {
    display: flex;
    border-top: 2px solid var(--color-ink);
  }
  .press {
    flex: 2;
    min-height: 84px;
    display: flex;
    flex-direction: column;
    align-items: center;
    justify-content: center;
    padding: 8px 12px;
    text-align: center;
    background: var(--color-ink);
    color: var(--color-paper);
    font-size: 23px;
    line-height: 1.1;
    font-weight: 700;
    font-stretch: 80%;
    cursor: pointer;
  }
  .press:disabled {
    background: var(--color-paper);
    color: var(--color-ink);
    cursor: default;
  }
  .press small {
    font-size: 14px;
    font-weight: 400;
  }
  .press.line {
    flex: 1;
    background: var(--color-slip);
    color: var(--color-ink);
    border-left: 2px solid var(--color-ink);
    font-size: 18px;
  }
  .press:focus-visible {
    outline-offset: -6px;
    outline-color: var(--color-act);
  }
  @media (min-width: 1001px) {
    .stage {
      flex: 1 0 0;
      height: 0;
      min-height: 600px;
    }
    .show {
      position: relative; /* what is hidden from sight inside scrolls with it */
      overflow-y: auto;
    }
  }
  @media (max-width: 1000px) {
    .word {
      font-size: min(44cqw, 42vh, 340px);
    }
    .stage {
      display: flex;
      flex-direction: column;
    }
    .show {
      border-right: 0;
      padding: 14px 20px;
      flex: 1 0 auto;
    }
    .say {
      font-size: 20px;
    }
    .under {
      font-size: 17px;
    }
    .side {
      display: contents;
    }
    .lines li:not(.now) {
      display: none;
    }
    .lines {
      order: 2;
    }
    .vessels {
      order: 3;
      background: var(--color-slip);
    }
    .buttons {
      order: 4;
      position: sticky;
      bottom: 0;
    }
    .press small {
      display: none;
    }
  }
</style>
