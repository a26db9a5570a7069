import { createRouter } from 'sv-router'
import Bench from '../routes/Bench.svelte'

// The bench comes with the first script; the other screens follow it as soon as the browser is idle,
// so that none waits for the network when it is opened, or is missing without one.
const screens = {
  close: () => import('../routes/Close.svelte'),
  answers: () => import('../routes/Answers.svelte'),
  diagnose: () => import('../routes/Diagnose.svelte'),
  descale: () => import('../routes/DescaleCard.svelte'),
  log: () => import('../routes/Log.svelte'),
  machine: () => import('../routes/Machine.svelte'),
  missing: () => import('../routes/Missing.svelte'),
  mix: () => import('../routes/Mix.svelte'),
  preferences: () => import('../routes/Preferences.svelte'),
  rest: () => import('../routes/Rest.svelte'),
  run: () => import('../routes/Run.svelte'),
  card: () => import('../routes/Card.svelte'),
  sheet: () => import('../routes/Sheet.svelte'),
  today: () => import('../routes/Today.svelte'),
  tape: () => import('../routes/Tape.svelte'),
  schools: () => import('../routes/Schools.svelte'),
  walk: () => import('../routes/Walk.svelte'),
  water: () => import('../routes/Water.svelte'),
}

// fetchScreens brings the other screens in; one that does not come is asked for when it is opened.
export async function fetchScreens() {
  for (const screen of Object.values(screens)) await screen().catch(() => undefined)
}

export const { p, navigate, isActive, route } = createRouter({
  '/': Bench,
  '/log': screens.log,
  '/mix': screens.mix,
  '/preferences': screens.preferences,
  '/tape': screens.tape,
  '/today': screens.today,
  '/water': screens.water,
  '/machines/new': screens.answers,
  '/machines/:id': screens.machine,
  '/machines/:id/answers': screens.answers,
  '/machines/:id/log': screens.log,
  '/machines/:id/close': screens.close,
  '/machines/:id/bar': screens.close,
  '/machines/:id/mix': screens.mix,
  '/machines/:id/runs/:run': screens.run,
  '/machines/:id/sitting': screens.sheet,
  '/machines/:id/card': screens.card,
  '/machines/:id/diagnose': screens.diagnose,
  '/machines/:id/tape': screens.tape,
  '/machines/:id/rest': screens.rest,
  '/machines/:id/walk': screens.walk,
  '/machines/:id/schools': screens.schools,
  '/machines/:id/water': screens.water,
  '/machines/:id/descale': screens.descale,
  '*': screens.missing,
})
