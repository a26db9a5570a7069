// What a page asks of the server: one answer at a time. Asked anew, what was asked before is called off, and should its
// answer come all the same, it is dropped. An answer that fails leaves what is shown where it is.
import { problemOf, type Problem } from './api'

export class Resource<T> {
  value = $state<T>()
  problem = $state<Problem>()
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

  /** Changes something, and asks again; false where it was refused. */
  async change(act: () => Promise<unknown>, again: () => Promise<unknown>): Promise<boolean> {
    try {
      await act()
    } catch (error) {
      this.problem = problemOf(error)
      return false
    }
    await again()
    return true
  }
}
