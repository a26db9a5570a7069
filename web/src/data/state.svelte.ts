// What more than one screen looks at.
import { ask, client, type Schemas, type Worked } from './api'

type Shown = { worked: Worked; limit?: string }

/** The number that is opened, if one is. */
export const opened = $state<{ path: Shown[] }>({ path: [] })

export function open(worked: Worked, limit?: string) {
  opened.path = [{ worked, limit }]
}

let pending: Promise<Schemas['Bench']> | undefined

/** The bench, asked for once by all who want it at the same moment; anew, whatever was asked before. */
export function askBench(anew = false): Promise<Schemas['Bench']> {
  if (anew || !pending) {
    const asked = ask(client.GET('/bench'))
    const gone = () => setTimeout(() => pending === asked && (pending = undefined), 300)
    asked.then(gone, gone)
    pending = asked
  }
  return pending
}

/** Chemicals in machines, for the band on every screen. */
export const hazards = $state<{ list: Schemas['Hazard'][] }>({ list: [] })

export async function loadHazards() {
  try {
    const bench = await askBench()
    hazards.list = bench.machines.flatMap((m) => m.hazards)
  } catch {
    // the band that is shown stays: better one too many than one too few
  }
}

/** How numbers are written. */
export const prefs = $state<Schemas['Preferences']>({
  units: 'metric',
  hardness: 'dh',
  currency: 'EUR',
  clock: '24',
})

export async function loadPreferences() {
  try {
    Object.assign(prefs, await ask(client.GET('/preferences')))
  } catch {
    // the usual ones stand
  }
}

/** Whether the list of keys is shown. */
export const help = $state({ shown: false })

const keysKey = 'freshanvil.keys'

/** Whether single letters act: who speaks to the computer, or has an unsure hand, may switch them off. */
export const singleKeys = $state({ on: kept(keysKey) !== 'no' })

function kept(key: string): string | null {
  try {
    return localStorage.getItem(key)
  } catch {
    return null
  }
}

export function setSingleKeys(on: boolean) {
  singleKeys.on = on
  try {
    localStorage.setItem(keysKey, on ? 'yes' : 'no')
  } catch {
    // it holds until the page is left
  }
}

/** Whether a key acts by itself: no field is typed into, nothing is held with it, and single keys are on. */
export function isPlain(event: KeyboardEvent): boolean {
  const on = event.target instanceof Element ? event.target : undefined
  if (event.ctrlKey || event.metaKey || event.altKey) return false
  return (
    singleKeys.on && !on?.closest('input:not([type="radio"], [type="checkbox"]), select, textarea, dialog[open]')
  )
}

const themeKey = 'freshanvil.theme'

/** Day, night, or as the system has it. */
export const theme = $state<{ name: 'day' | 'night' | 'system' }>({ name: 'system' })

function apply() {
  if (theme.name === 'system') delete document.documentElement.dataset.theme
  else document.documentElement.dataset.theme = theme.name
}

export function startTheme() {
  try {
    const kept = localStorage.getItem(themeKey)
    if (kept === 'day' || kept === 'night') theme.name = kept
  } catch {
    // no storage: follow the system
  }
  apply()
}

export function setTheme(name: 'day' | 'night' | 'system') {
  theme.name = name
  try {
    localStorage.setItem(themeKey, theme.name)
  } catch {
    // it holds until the page is left
  }
  apply()
}
