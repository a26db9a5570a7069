import { createRouter } from 'sv-router'
import Bench from './screens/bench/Bench.svelte'

// The bench comes with the first script; the other screens follow it as soon as the browser is idle,
// so that none waits for the network when it is opened, or is missing without one.
const screens = {
  bar: () => import('./screens/close/AtTheBar.svelte'),
  close: () => import('./screens/close/Close.svelte'),
  answers: () => import('./screens/answers/Answers.svelte'),
  diagnose: () => import('./screens/diagnose/Diagnose.svelte'),
  descale: () => import('./screens/descale/DescaleCard.svelte'),
  log: () => import('./screens/log/Log.svelte'),
  machine: () => import('./screens/machine/Machine.svelte'),
  missing: () => import('./screens/missing/Missing.svelte'),
  many: () => import('./screens/many/Many.svelte'),
  mix: () => import('./screens/mix/Mix.svelte'),
  preferences: () => import('./screens/preferences/Preferences.svelte'),
  wall: () => import('./screens/close/Wall.svelte'),
  report: () => import('./screens/report/Report.svelte'),
  rest: () => import('./screens/rest/Rest.svelte'),
  run: () => import('./screens/run/Run.svelte'),
  card: () => import('./screens/card/Card.svelte'),
  sheet: () => import('./screens/sheet/Sheet.svelte'),
  today: () => import('./screens/today/Today.svelte'),
  tape: () => import('./screens/tape/Tape.svelte'),
  schools: () => import('./screens/schools/Schools.svelte'),
  walk: () => import('./screens/walk/Walk.svelte'),
  water: () => import('./screens/water/Water.svelte'),
}

// fetchScreens brings the other screens in; one that does not come is asked for when it is opened.
export async function fetchScreens() {
  for (const screen of Object.values(screens)) await screen().catch(() => undefined)
}

export const { p, navigate, isActive, route } = createRouter({
  '/': Bench,
  '/bar': screens.bar,
  '/log': screens.log,
  '/mix': screens.mix,
  '/pair': screens.missing,
  '/preferences': screens.preferences,
  '/report': screens.report,
  '/tape': screens.tape,
  '/today': screens.today,
  '/water': screens.water,
  '/machines/new': screens.answers,
  '/machines/many': screens.many,
  '/machines/:id': screens.machine,
  '/machines/:id/answers': screens.answers,
  '/machines/:id/log': screens.log,
  '/machines/:id/close': screens.close,
  '/machines/:id/bar': screens.close,
  '/machines/:id/wall': screens.wall,
  '/machines/:id/mix': screens.mix,
  '/machines/:id/runs/:run': screens.run,
  '/machines/:id/sitting': screens.sheet,
  '/machines/:id/card': screens.card,
  '/machines/:id/diagnose': screens.diagnose,
  '/machines/:id/tape': screens.tape,
  '/machines/:id/report': screens.report,
  '/machines/:id/rest': screens.rest,
  '/machines/:id/walk': screens.walk,
  '/machines/:id/schools': screens.schools,
  '/machines/:id/water': screens.water,
  '/machines/:id/descale': screens.descale,
  '*': screens.missing,
})
