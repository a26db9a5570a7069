// A run as this device sees it: the server's clock, the present step as a
// schedule, and the presses made here. It plays the step it was given and
// decides nothing: what a press does is the server's word.
import { follow } from './events'
import { ask, client, device, newId, Refused, type Problem, type Run, type Schemas } from './api'

type Press = Schemas['Press']

/** How long a press may wait before that is said, in milliseconds. */
const patience = 1000

export class Live {
  run = $state<Run>()
  problem = $state<unknown>()
  /** Server time in milliseconds, as far as this device can tell. */
  now = $state(0)
  /** Presses that are on their way, the oldest first. */
  waiting = $state<Press[]>([])
  /** Presses that were refused for good, and why; told until somebody has seen it. */
  lost = $state<{ id: string; problem: Problem }[]>([])
  /** The server could not take a press now. */
  busy = $state(false)
  /** A press has waited for its answer for longer than a hand expects. */
  stuck = $state(false)
  /** This browser keeps nothing across a reload. */
  unkept = $state(false)

  #id: string
  #ahead = 0 // server time less this device's monotonic clock
  #asking = false
  #again = false
  #sending = false
  #asked = 0
  #pressed = 0

  constructor(id: string) {
    this.#id = id
    this.waiting = this.#kept()
  }

  // The step as it was last heard, for a reload without a network: it is played on by this device's own clock.
  get #lastKey() {
    return `freshanvil.run.${this.#id}`
  }
  #remember(run: Run) {
    try {
      if (run.outcome) localStorage.removeItem(this.#lastKey)
      else localStorage.setItem(this.#lastKey, JSON.stringify({ run, wall: Date.now() }))
    } catch {
      // it is asked for again once there is a network
    }
  }
  #recall() {
    try {
      const last = JSON.parse(localStorage.getItem(this.#lastKey) ?? 'null') as { run: Run; wall: number } | null
      if (!last || this.run) return
      this.#ahead = Date.parse(last.run.server_time) + (Date.now() - last.wall) - performance.now()
      this.run = last.run
      this.now = performance.now() + this.#ahead
    } catch {
      // nothing is shown rather than something wrong
    }
  }

  /** Follows the presses of other devices. Gives what ends it. */
  follow(): () => void {
    return follow((run) => {
      if (run === undefined || run === this.#id) void this.load()
    })
  }

  // Presses that wait for a connection are kept across a reload.
  get #key() {
    return `freshanvil.waiting.${this.#id}`
  }
  #kept(): Press[] {
    try {
      return JSON.parse(localStorage.getItem(this.#key) ?? '[]') as Press[]
    } catch {
      return []
    }
  }
  #keep() {
    try {
      if (this.waiting.length > 0) localStorage.setItem(this.#key, JSON.stringify(this.waiting))
      else localStorage.removeItem(this.#key)
      this.unkept = false
    } catch {
      this.unkept = true // they are kept while the page is open
    }
  }

  /** Another device pressed last: this one follows. */
  following = $derived(this.run !== undefined && !this.run.outcome && this.run.last_device !== device())

  /** The segment that runs now, by the schedule; the last one until the server says what is next. */
  segment = $derived.by((): Schemas['Segment'] | undefined => {
    const run = this.run
    if (!run) return undefined
    return run.schedule.find((s) => !s.ends_at || Date.parse(s.ends_at) > this.now) ?? run.schedule.at(-1)
  })
  /** Run seconds left in the segment. */
  left = $derived.by(() => {
    const end = this.segment?.ends_at
    return end && this.run ? Math.max(0, ((Date.parse(end) - this.now) / 1000) * this.run.speed) : 0
  })
  /** Run seconds the segment has gone on, where a press ends it. */
  since = $derived.by(() =>
    this.segment && this.run
      ? Math.max(0, ((this.now - Date.parse(this.segment.starts_at)) / 1000) * this.run.speed)
      : 0,
  )
  /** Share of the segment that has gone. */
  gone = $derived.by(() => {
    const s = this.segment
    if (!s?.ends_at) return 0
    const start = Date.parse(s.starts_at)
    return Math.min(1, Math.max(0, (this.now - start) / (Date.parse(s.ends_at) - start)))
  })

  #take(run: Run, sent: number, got: number) {
    this.#ahead = Date.parse(run.server_time) - (sent + got) / 2
    this.run = run
    this.#moves(got)
    this.#remember(run)
  }

  // Each answer sets the clock anew, by some milliseconds: where that is back it stands still meanwhile, so that no
  // part of a pulse begins, and sounds, twice. A server that was set back by more is followed.
  #moves(here: number) {
    const now = here + this.#ahead
    if (now > this.now || this.now - now > 1000) this.now = now
  }

  async load() {
    if (this.#asking) {
      this.#again = true // what is being asked may be older than what was just told
      return
    }
    this.#asking = true
    const sent = performance.now()
    this.#asked = sent
    try {
      const run = await ask(client.GET('/runs/{run_id}', { params: { path: { run_id: this.#id } } }))
      if (!this.#sending) this.#take(run, sent, performance.now())
      this.problem = undefined
    } catch (error) {
      this.problem = error
      if (error instanceof Refused && error.offline) this.#recall()
    } finally {
      this.#asking = false
    }
    if (this.#again) {
      this.#again = false
      await this.load()
    }
  }

  /** Lets time pass. At the end of a schedule the server is asked what is next. */
  tick() {
    const here = performance.now()
    this.#moves(here)
    const waits = this.waiting.length > 0 ? here - this.#pressed : 0
    if (waits > patience !== this.stuck) this.stuck = waits > patience
    if (!this.run || this.run.outcome) return
    const end = this.run.schedule.at(-1)?.ends_at
    const over = end !== undefined && Date.parse(end) <= this.now
    const since = here - this.#asked
    const turned = this.run?.descale && this.segment?.index !== this.run.segment.index // its map is of one segment
    if (over || turned ? since > 150 : since > 5000) void this.load()
    if (this.waiting.length > 0 && !this.#sending && since > 1000) void this.#send()
  }

  async press(kind: Press['kind'], more: Partial<Press> = {}) {
    const run = this.run
    if (!run || run.outcome) return
    const step = run.step.id
    const segment = this.segment?.index ?? run.segment.index
    // pressed again before the answer came
    if (this.waiting.some((w) => w.step === step && w.segment === segment && w.kind === kind)) return
    if (this.waiting.length === 0) this.#pressed = performance.now()
    this.waiting.push({
      id: newId(),
      device: device(),
      step,
      segment,
      kind,
      at: new Date(performance.now() + this.#ahead).toISOString(),
      ...more,
    })
    this.#keep()
    await this.#send()
  }

  /** Somebody has seen that a press did not count. */
  forget(id: string) {
    this.lost = this.lost.filter((l) => l.id !== id)
  }

  // One press after the other. A press is kept until the server has it or has refused it:
  // without connection, or while the server cannot, they wait and are sent again.
  async #send() {
    if (this.#sending) return
    this.#sending = true
    try {
      for (let body = this.waiting[0]; body; body = this.waiting[0]) {
        const sent = performance.now()
        this.#asked = sent
        const run = await ask(
          client.POST('/runs/{run_id}/presses', { params: { path: { run_id: this.#id } }, body }),
        )
        this.waiting.shift()
        this.#keep()
        this.#take(run, sent, performance.now())
        this.problem = undefined
        this.busy = false
      }
    } catch (error) {
      this.problem = error
      this.busy = !(error instanceof Refused && error.offline)
      const refused = error instanceof Refused && error.final ? this.waiting.shift() : undefined
      if (refused && error instanceof Refused) {
        this.lost.push({ id: refused.id, problem: error.problem })
        this.busy = false
        this.#keep()
        void this.load()
      }
    } finally {
      this.#sending = false
    }
  }
}
