// Who this browser is let in as. On a server that lets everybody on its own machine in, nobody asks.
import { ask, client, onShutOut, type Schemas } from './api'

type Me = Schemas['Me']

export const me = $state<{ value: Me | undefined }>({ value: undefined })

/** Whether somebody has to log in before anything is shown. */
export const shut = (): boolean => me.value?.login === true && me.value.role === undefined

// what a session ended meanwhile: the page that is open asks who it is
onShutOut(() => {
  if (me.value?.role !== undefined || me.value === undefined) void loadMe()
})

export async function loadMe(): Promise<void> {
  try {
    me.value = await ask(client.GET('/me'))
  } catch {
    // no connection: what was known stands
  }
}

/** Whether who is let in may do what a role is for. Until it is known, all is shown; the server has the last word. */
export const may = (role: Schemas['Role']): boolean => me.value?.may?.includes(role) ?? true

/** Is let in, and shows what there is; throws Refused. */
export async function enter(call: () => Promise<Me>): Promise<void> {
  me.value = await call()
}

export async function leave(everywhere: boolean): Promise<void> {
  forgetRuns()
  me.value = await ask(client.POST('/logout', { body: { everywhere } }))
}

// what was kept of runs for a reload without a network is nobody else's
function forgetRuns() {
  try {
    for (const key of Object.keys(localStorage)) if (key.startsWith('freshanvil.run.')) localStorage.removeItem(key)
  } catch {
    // nothing was kept
  }
}

/** What this browser is, to be known again in the list of devices. */
export const deviceName = (): string => (matchMedia('(max-width: 700px)').matches ? 'a phone' : 'a computer')
