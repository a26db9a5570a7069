// What a page sends and what it asks for, so that no page catches or counts answers by itself.
import { problemOf, type Problem } from './api'

/** What somebody does from a page. A refusal stands in problem until the next try goes through. */
export class Act {
  problem = $state<Problem>()

  /** Tries it; true where it went through. */
  async try(call: () => Promise<unknown>): Promise<boolean> {
    try {
      await call()
      this.problem = undefined
      return true
    } catch (error) {
      this.problem = problemOf(error)
      return false
    }
  }
}

/**
 * What a page shows of the server: one answer at a time. Asked anew, what was asked before is called off, and should
 * its answer come all the same, it is dropped. An answer that fails leaves what is shown where it is.
 */
export class Resource<T> extends Act {
  value = $state<T>()
  #turn = 0
  #stop: AbortController | undefined

  /** Asks; gives the answer, or nothing where it failed or was asked anew meanwhile. */
  async ask(call: (signal: AbortSignal) => Promise<T>): Promise<T | undefined> {
    const mine = ++this.#turn
    this.#stop?.abort()
    const stop = new AbortController()
    this.#stop = stop
    try {
      const got = await call(stop.signal)
      if (mine !== this.#turn) return undefined
      this.value = got
      this.problem = undefined
      return got
    } catch (error) {
      if (mine === this.#turn) this.problem = problemOf(error)
      return undefined
    }
  }

  /** Shows what an act has answered; what was asked for before is dropped. */
  show(value: T | undefined): void {
    this.#turn++
    this.#stop?.abort()
    this.value = value
  }

  /** Changes something, and asks again; false where it was refused. */
  async change(act: () => Promise<unknown>, again: () => Promise<unknown>): Promise<boolean> {
    const done = await this.try(act)
    if (done) await again()
    return done
  }
}
