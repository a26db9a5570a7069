import { createRouter } from 'sv-router'
import Answers from '../routes/Answers.svelte'
import Bench from '../routes/Bench.svelte'
import DescaleCard from '../routes/DescaleCard.svelte'
import Log from '../routes/Log.svelte'
import Machine from '../routes/Machine.svelte'
import Mix from '../routes/Mix.svelte'
import Preferences from '../routes/Preferences.svelte'
import Missing from '../routes/Missing.svelte'
import Run from '../routes/Run.svelte'
import Schools from '../routes/Schools.svelte'
import Water from '../routes/Water.svelte'

export const { p, navigate, isActive, route } = createRouter({
  '/': Bench,
  '/log': Log,
  '/mix': Mix,
  '/preferences': Preferences,
  '/water': Water,
  '/machines/new': Answers,
  '/machines/:id': Machine,
  '/machines/:id/answers': Answers,
  '/machines/:id/log': Log,
  '/machines/:id/mix': Mix,
  '/machines/:id/runs/:run': Run,
  '/machines/:id/schools': Schools,
  '/machines/:id/water': Water,
  '/machines/:id/descale': DescaleCard,
  '*': Missing,
})
