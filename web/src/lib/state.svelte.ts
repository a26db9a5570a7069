// What more than one screen looks at.
import { ask, client, type Schemas, type Worked } from './api'

type Shown = { worked: Worked; limit?: string }

/** The number that is opened, if one is. */
export const opened = $state<{ path: Shown[] }>({ path: [] })

export function open(worked: Worked, limit?: string) {
  opened.path = [{ worked, limit }]
}

/** Chemicals in machines, for the band on every screen. */
export const hazards = $state<{ list: Schemas['Hazard'][] }>({ list: [] })

export async function loadHazards() {
  try {
    const bench = await ask(client.GET('/bench'))
    hazards.list = bench.machines.flatMap((m) => m.hazards)
  } catch {
    // the band that is shown stays: better one too many than one too few
  }
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

export function switchTheme() {
  theme.name = theme.name === 'system' ? 'night' : theme.name === 'night' ? 'day' : 'system'
  try {
    localStorage.setItem(themeKey, theme.name)
  } catch {
    // it holds until the page is left
  }
  apply()
}
