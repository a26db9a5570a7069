// The one door to the server. Types come from the contract.
import createClient from 'openapi-fetch'
import { v7 } from 'uuid'
import type { components, paths } from './contract.gen'

export type Schemas = components['schemas']
export type Worked = Schemas['Worked']
export type Due = Schemas['Due']
export type Standing = Schemas['Standing']
export type Run = Schemas['Run']
export type BenchMachine = Schemas['BenchMachine']
export type MachinePlan = Schemas['MachinePlan']
export type Problem = Schemas['Problem']

export const client = createClient<paths>({ baseUrl: '/api' })

export const newId = (): string => v7()

/** The device this browser is, the same after a reload. */
export function device(): string {
  const key = 'freshanvil.device'
  try {
    const have = localStorage.getItem(key)
    if (have) return have
    const made = newId()
    localStorage.setItem(key, made)
    return made
  } catch {
    return 'browser without storage'
  }
}

/** The server refused or could not be reached. */
export class Refused extends Error {
  constructor(readonly problem: Problem) {
    super(problem.title)
  }
  get offline(): boolean {
    return this.problem.status === 0
  }
  /** Asking again would be refused again. */
  get final(): boolean {
    const { status } = this.problem
    return status >= 400 && status < 500 && ![401, 408, 425, 429].includes(status)
  }
}

let shutOut = () => {}

/** What is done when the server no longer knows this browser. */
export function onShutOut(f: () => void): void {
  shutOut = f
}

type Answer<T> = { data?: T; error?: unknown; response: Response }

/** Gives the data of a call, nothing where the answer has no content, or throws Refused. */
export async function ask<T>(call: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>
  try {
    answer = await call
  } catch {
    throw new Refused({
      type: 'about:blank',
      status: 0,
      code: 'offline',
      title: 'No connection',
      detail:
        'The server gave no answer. Whether it was kept shows when you look again; ' +
        'the same press again changes nothing twice.',
    })
  }
  if (answer.data !== undefined || (answer.response.ok && answer.response.status === 204)) return answer.data as T
  const problem = answer.error as Partial<Problem> | undefined
  if (answer.response.status === 401 && problem?.code === 'login') shutOut()
  throw new Refused({
    type: 'about:blank',
    status: answer.response.status,
    code: 'unexpected',
    title: 'The server did not answer as expected',
    ...problem,
  })
}

export function problemOf(error: unknown): Problem {
  if (error instanceof Refused) return error.problem
  return {
    type: 'about:blank',
    status: 0,
    code: 'unexpected',
    title: error instanceof Error ? error.message : String(error),
  }
}
