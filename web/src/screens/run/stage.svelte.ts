// What a run looks like now, for the parts of its screen: derived from the live run, and what is picked but not
// pressed yet.
import type { Schemas } from '../../data/api'
import type { Live } from '../../data/live.svelte'

type Kind = Schemas['Press']['kind']
/** What goes on; or, aside, what holds or stops: that never stands where the key to go on stood. */
export type Main = { text: string; act: () => void; off?: boolean; byHand?: boolean; aside?: boolean }

/** So long after the main key's meaning changed a press on its old place does nothing, in milliseconds. */
const settles = 700

const nagEvery = 15 // run seconds
const briefly = 'freshanvil.brief'

function keptBrief(): boolean {
  try {
    return localStorage.getItem(briefly) === 'yes'
  } catch {
    return false
  }
}

export class Stage {
  live: Live
  #leave: () => void
  constructor(live: Live, leave: () => void) {
    this.live = live
    this.#leave = leave
  }

  // picked, not pressed yet
  own = $state(false)
  cup = $state<Partial<Schemas['Cup']>>({})
  what = $state<Schemas['Press']['what']>()
  strip = $state<Schemas['Strip']>()
  mixed = $state<number | null>(null) // what was weighed out, where it is not what the plan says
  first = $state<Schemas['Press']['first']>()
  /** Few words, for who does it every night. */
  brief = $state(keptBrief())

  run = $derived.by(() => this.live.run)
  step = $derived.by(() => this.live.run?.step)
  kind = $derived.by(() => this.live.segment?.kind)
  on = $derived.by(() => this.kind === 'on')
  pulsing = $derived.by(() => this.on || this.kind === 'off')
  resting = $derived.by(() => this.kind === 'rest')
  soaking = $derived.by(() => this.kind === 'soak' || this.resting)
  pushing = $derived.by(() => this.step?.kind === 'push' || this.step?.kind === 'sips')
  cut = $derived.by(() => this.run?.descale?.cut === true)
  /** A wait of more than half an hour is told by the clock on the wall. */
  longWait = $derived.by(() => this.kind === 'soak' && (this.step?.waits_s ?? 0) > 1800)
  at = $derived.by(() => (this.run?.lines.findIndex((l) => l.status === 'now') ?? -1) + 1)
  several = $derived.by(() => (this.run?.groups.length ?? 0) > 1)
  washing = $derived.by(() => this.run?.of_machine !== true || this.run.detergent.in === true)
  /** How often nothing came out of the present head; after the second time nothing is begun any more. */
  head = $derived.by(() => this.run?.groups.find((g) => g.part === this.run?.part))
  pressed = $derived.by(() => this.head?.blind ?? 0)
  blocked = $derived.by(() => this.head?.barred ?? false)
  /** At one's own pace the seconds count up, and a press ends each part. */
  ownPace = $derived.by(() => this.allowed('turn'))
  seconds = $derived.by(() =>
    this.ownPace ? Math.floor(this.live.since) : Math.max(1, Math.ceil(this.live.left - 0.001)),
  )
  part = $derived.by(() => (this.on ? (this.step?.on_s ?? 0) : (this.step?.off_s ?? 0)))
  enough = $derived.by(() => !this.ownPace || this.live.since >= this.part)
  picked = $derived.by(() =>
    this.cup.colour && this.cup.foam && this.cup.grains ? (this.cup as Schemas['Cup']) : undefined,
  )
  way = $derived.by(() => this.step?.ways?.find((w) => w.what === this.what))

  // a run that stands still with detergent in the group is not to be forgotten
  standing = $derived.by(() =>
    this.run && !this.run.outcome && this.run.inside.any && !this.pulsing && !this.soaking
      ? ((this.live.now - Date.parse(this.run.segment.starts_at)) / 1000) * this.run.speed
      : 0,
  )
  nagging = $derived.by(() => this.standing > (this.run?.patience_s ?? 0) && !this.run?.absence)
  nags = $derived.by(() =>
    this.nagging ? Math.floor((this.standing - (this.run?.patience_s ?? 0)) / nagEvery) : -1,
  )
  /** Somebody is called away: how long there is left, in run seconds; below 0 it rings. */
  awayLeft = $derived.by(() =>
    this.run?.absence ? ((Date.parse(this.run.absence.until) - this.live.now) / 1000) * this.run.speed : 0,
  )
  ringing = $derived.by(() =>
    this.run?.absence && !this.run.outcome && this.awayLeft <= 0 ? Math.floor(-this.awayLeft / nagEvery) : -1,
  )
  soakTurn = $derived.by(() =>
    Math.floor(Math.max(-nagEvery, ...(this.run?.soaks ?? []).map((s) => this.over(s))) / nagEvery),
  )
  moment = $derived.by(() =>
    this.run && !this.run.outcome ? `${this.step?.id} ${this.live.segment?.index} ${this.kind}` : '',
  )

  allowed = (kind: Kind): boolean => this.run?.allowed.includes(kind) ?? false
  /** How long a soak beside what the hands do has been over; below 0 it goes on. */
  over = (s: Schemas['Soaking']): number =>
    ((this.live.now - Date.parse(s.ends_at)) / 1000) * (this.run?.speed ?? 1)

  /** The main key has just changed its meaning: a thumb that is still on its way means the old one. */
  fresh = $state(false)
  #settling: ReturnType<typeof setTimeout> | undefined
  meaning = $derived.by(
    () => `${this.run?.step.id} ${this.live.segment?.index} ${this.kind} ${this.main?.text ?? ''}`,
  )
  turned() {
    clearTimeout(this.#settling)
    this.fresh = true
    this.#settling = setTimeout(() => (this.fresh = false), settles)
  }
  /** So it is with what reports a fault, where other keys have come into its place. */
  others = $state(false)
  #moving: ReturnType<typeof setTimeout> | undefined
  reports = $derived.by(() =>
    [
      this.run?.step.id,
      this.pulsing || this.resting,
      this.allowed('mended'),
      this.allowed('nothing_came'),
      this.allowed('opened'),
    ].join(' '),
  )
  moved() {
    clearTimeout(this.#moving)
    this.others = true
    this.#moving = setTimeout(() => (this.others = false), settles)
  }
  /** Whatever goes on, by thumb, key or pedal. */
  go() {
    const main = this.main
    if (main && !main.off && (main.aside || !this.fresh)) main.act()
  }

  /** A new step begins with nothing picked. */
  forget() {
    Object.assign(this, { cup: {}, first: undefined, what: undefined, strip: undefined, mixed: null })
  }
  say(brief: boolean) {
    this.brief = brief
    try {
      localStorage.setItem(briefly, brief ? 'yes' : 'no')
    } catch {
      // it holds until the page is left
    }
  }

  /** What the space bar does, and what its button says. */
  main = $derived.by((): Main | undefined => {
    const { run, step, live } = this
    if (!run || !step || run.outcome) return undefined
    return this.#standstill(live) ?? this.#clocked(live, step) ?? this.#asked(run, step, live)
  })
  #standstill(live: Live): Main | undefined {
    if (this.allowed('returned')) return { text: 'I am back', act: () => live.press('returned') }
    if (this.allowed('back')) return { text: 'Power is back', act: () => live.press('back') }
    return undefined
  }
  #clocked(live: Live, step: Schemas['Step']): Main | undefined {
    if (this.ownPace)
      return {
        text: !this.enough ? (this.on ? 'Build pressure' : 'Let it vent') : this.on ? 'Pump is off' : 'Go on',
        act: () => this.enough && live.press('turn'),
        off: !this.enough,
      }
    if (this.resting) return { text: 'Pause', act: () => live.press('hold'), aside: true }
    if (this.pulsing)
      return {
        text: this.pushing ? 'Stop the pump' : this.on ? 'Stop pulse' : 'Pause',
        act: () => live.press('hold'),
        aside: true,
      }
    // what was found is said before anything goes on
    if (this.allowed('mended'))
      return { text: 'Pump is off: stop here', act: this.#leave, byHand: true, aside: true }
    // the space bar must not vouch for a head that may be under pressure
    if (this.allowed('opened') && this.allowed('begin'))
      return { text: 'Pulse again', act: () => live.press('begin', { own: this.own }), byHand: true }
    if (this.allowed('opened'))
      return this.blocked
        ? { text: 'Pump is off: stop here', act: this.#leave, byHand: true, aside: true }
        : {
            text: this.allowed('nothing_came') ? 'Water came' : 'It has opened',
            act: () => live.press('opened'),
            byHand: true,
          }
    return this.soaking && this.allowed('done')
      ? { text: step.ends ?? 'It has finished', act: () => live.press('done') }
      : undefined
  }
  #asked(run: Schemas['Run'], step: Schemas['Step'], live: Live): Main | undefined {
    const ready = (run.empty_tray ? 'Tray is empty. ' : '') + (run.fill_tank ? 'Tank is full. ' : '')
    const pick = (kind: Kind, word: string, what: Partial<Schemas['Press']> | undefined): Main => ({
      text: what ? step.button : word,
      act: () => what && live.press(kind, what),
      off: !what,
    })
    if (this.allowed('begin'))
      return {
        text:
          ready + (run.segment.kind === 'held' ? (this.pushing ? 'Go on: pump on' : 'Pulse again') : step.button),
        act: () => live.press('begin', { own: this.own }),
      }
    if (this.allowed('reading')) return pick('reading', 'Pick one in each row', this.picked && { cup: this.picked })
    if (this.allowed('measured')) return pick('measured', 'Pick the pH', this.strip && { strip: this.strip })
    if (this.allowed('graded')) return pick('graded', 'Pick one', this.first && { first: this.first })
    if (this.allowed('heard')) return pick('heard', 'Pick one', this.what && { what: this.what })
    const { mixed } = this
    if (step.mix && this.allowed('done'))
      return {
        text: ready + step.button,
        act: () => live.press('done', mixed === null ? {} : { mixed }),
        off: mixed !== null && !(mixed >= 0),
      }
    if (this.allowed('again'))
      return { text: step.reads ? 'Rinse on' : 'Two more pulses', act: () => live.press('again') }
    if (this.allowed('done')) return { text: ready + step.button, act: () => live.press('done') }
    return undefined
  }
}

/** Minutes and seconds of a clock. */
export const minutes = (s: number): string =>
  `${Math.floor(Math.ceil(s) / 60)}:${String(Math.ceil(s) % 60).padStart(2, '0')}`
