// The five answers as they are given, and what they come to.
import { ask, client, newId, problemOf, type MachinePlan, type Problem, type Schemas } from '../../data/api'
import { prefs } from '../../data/state.svelte'
import { during, groupParts, localZone, theMachine } from '../../ui/format'

type Answers = Schemas['Answers']
export type Sign = Schemas['LayoutSign']

export type Question =
  'layout' | 'valve' | 'drinks' | 'milk' | 'hardness' | 'treatment' | 'before' | 'since' | 'end'

/** The answers of one machine, new or kept. */
export class Given {
  signs = $state<Sign[]>([])
  name = $state('')
  layout = $state<Answers['layout']>()
  said = $state<Answers['valve']>()
  drinks = $state<number | null>(null)
  milk = $state<number | null>(null)
  known = $state<boolean>()
  hardness = $state<number | null>(null)
  unit = $state<NonNullable<Schemas['HardnessAnswer']['unit']>>(prefs.hardness)
  treatment = $state<Answers['treatment']>()
  isNew = $state<boolean>()
  washed = $state('')
  descaled = $state('')
  changed = $state('')
  since = $state('') // of a correction: it was like that from this day on
  version = 1
  plan = $state<MachinePlan>()
  problem = $state<Problem>()
  kept = $state<Problem>()
  private id = newId() // saving twice keeps one machine
  constructor(readonly machine: string | undefined) {}

  get sign(): Sign | undefined {
    return this.signs.find((s) => s.layout === this.layout)
  }
  /** The valve as it was said, or as this layout always has it. */
  get valve(): Answers['valve'] | undefined {
    const s = this.sign
    if (!s || s.valve === 'no') return s && 'no'
    return this.said ?? (s.valve === 'yes' ? 'yes' : undefined)
  }
  get questions(): Question[] {
    return [
      'layout',
      ...(this.sign?.valve === 'ask' ? (['valve'] as const) : []),
      'drinks',
      'milk',
      'hardness',
      'treatment',
      this.machine ? 'since' : 'before',
      'end',
    ]
  }
  answered(q: Question): boolean {
    const all: Record<Question, boolean> = {
      layout: !!this.layout,
      valve: !!this.valve,
      drinks: this.drinks !== null,
      milk: this.milk !== null,
      hardness: this.known === false || (this.known === true && this.hardness !== null),
      treatment: !!this.treatment,
      before: this.isNew !== undefined,
      since: true,
      end: true,
    }
    return all[q]
  }
  get missing(): Question[] {
    return this.questions.filter((q) => !this.answered(q))
  }
  get answers(): Answers | undefined {
    const { layout, valve, drinks, milk, known, treatment } = this
    if (
      !layout ||
      !valve ||
      drinks === null ||
      milk === null ||
      known === undefined ||
      !treatment ||
      (known && this.hardness === null)
    )
      return undefined
    return {
      layout,
      valve,
      drinks_per_day: drinks,
      milk_drinks_per_day: milk,
      hardness: known ? { known, value: this.hardness ?? 0, unit: this.unit } : { known },
      treatment,
    }
  }
  /** What somebody knows of what was done before. */
  get before(): Schemas['DoneBefore'] {
    if (this.isNew !== false) return []
    const list: Schemas['DoneBefore'] = []
    if (this.washed)
      for (const part of groupParts(this.plan?.groups ?? this.sign?.scheme.groups ?? 1))
        list.push({ task: 'wash', part, at: during(this.washed) })
    if (this.descaled) list.push({ task: 'descale', part: theMachine, at: during(this.descaled) })
    if (this.changed && this.plan?.renews)
      list.push({ task: this.plan.renews, part: theMachine, at: during(this.changed) })
    return list
  }
  /** The problem that belongs to a question, if one does. */
  at(field: string): Problem | undefined {
    const p = this.problem ?? this.kept
    return field && p?.field?.replace(/^answers\./, '').startsWith(field) ? p : undefined
  }
  /** The question whose answer cannot be taken. */
  get wrong(): Question | undefined {
    const fields: [Question, string][] = [
      ['drinks', 'drinks_per_day'],
      ['milk', 'milk_drinks_per_day'],
      ['hardness', 'hardness'],
      ['before', 'before'],
    ]
    return fields.find(([, field]) => this.at(field))?.[0]
  }
  /** Takes what was probably meant by the answer to a question. */
  take(question: Question, value: number) {
    if (question === 'hardness') this.hardness = value
    if (question === 'drinks') this.drinks = value
    if (question === 'milk') this.milk = value
    this.kept = undefined
  }

  async load() {
    try {
      this.signs = (await ask(client.GET('/layouts'))).layouts
      if (!this.machine) return
      const m = await ask(client.GET('/machines/{machine_id}', { params: { path: { machine_id: this.machine } } }))
      const a = m.answers
      Object.assign(this, {
        name: m.name,
        version: m.version,
        layout: a.layout,
        said: a.valve,
        drinks: a.drinks_per_day,
        milk: a.milk_drinks_per_day,
        known: a.hardness.known,
        hardness: a.hardness.value ?? null,
        unit: a.hardness.unit ?? 'dh',
        treatment: a.treatment,
      })
    } catch (error) {
      this.problem = problemOf(error)
    }
  }

  private asked = 0
  /** Works the plan out anew; a late answer to what was asked before is dropped. */
  async look() {
    const answers = this.answers
    if (!answers) return
    const mine = ++this.asked
    try {
      const came = await ask(
        client.POST('/preview', {
          body: { answers, zone: localZone, used: this.isNew === false, before: this.before },
        }),
      )
      if (mine === this.asked) [this.plan, this.problem] = [came, undefined]
    } catch (error) {
      if (mine === this.asked) [this.plan, this.problem] = [undefined, problemOf(error)]
    }
  }

  /** Keeps the machine, or its changed answers; false where it was refused. */
  async save(sinceOf: (day: string) => string): Promise<boolean> {
    const answers = this.answers
    if (!answers) return false
    try {
      if (this.machine) {
        await ask(
          client.POST('/machines/{machine_id}/answers', {
            params: { path: { machine_id: this.machine } },
            body: { version: this.version, ...(this.since && { since: sinceOf(this.since) }), answers },
          }),
        )
      } else {
        const name = this.name.trim() || this.sign?.title || 'Machine'
        await ask(
          client.POST('/machines', {
            body: {
              id: this.id,
              name,
              zone: localZone,
              answers,
              ...(this.isNew && { new_since: new Date().toISOString() }),
              ...(this.isNew === false && { before: this.before }),
            },
          }),
        )
      }
      return true
    } catch (error) {
      this.kept = problemOf(error)
      return false
    }
  }
}
