// A walk round a machine: which card is looked at, what was chosen on it, and what that comes to.
import { ask, client, newId, type Schemas } from '../../data/api'
import { Resource } from '../../data/resource.svelte'
import { loadHazards } from '../../data/state.svelte'
import { groupOf } from '../../ui/format'

export class Round {
  hot = $state<boolean>()
  at = $state(0)
  turned = $state('') // the posture that somebody said it has
  chosen = $state('')
  number = $state('')
  taken = $state('') // what was taken last
  #page = new Resource<Schemas['Walk']>()
  #look = new Resource<Schemas['LookJudged']>()

  constructor(readonly machine: () => string) {}

  get walk(): Schemas['Walk'] | undefined {
    return this.#page.value
  }
  get judged(): Schemas['LookJudged'] | undefined {
    return this.#look.value
  }
  get problem() {
    return this.#look.problem ?? this.#page.problem
  }
  get card(): Schemas['WalkCard'] | undefined {
    return this.walk?.cards[this.at]
  }
  /** The posture that the card wants and the machine is not in yet. */
  get waits(): string | undefined {
    const wants = this.card?.posture
    return wants && wants !== 'untouched' && this.turned !== wants ? wants : undefined
  }

  async load(hot = true) {
    const params = { path: { machine_id: this.machine() }, query: { hot } }
    const got = await this.#page.ask((signal) => ask(client.GET('/machines/{machine_id}/walk', { params, signal })))
    if (got) document.title = `Walk round, ${got.machine_name} · Fresh Anvil`
  }
  async begin(hot: boolean) {
    await this.load(hot)
    this.hot = hot
    this.turned = hot ? 'hot' : 'cold'
    const first = this.walk?.cards.findIndex((c) => !c.fresh) ?? 0
    await this.go(first < 0 ? (this.walk?.cards.length ?? 0) : first)
  }
  async go(to: number) {
    if (this.walk && to >= this.walk.cards.length) await this.load(this.hot) // its end shows what was found
    this.at = Math.max(0, to)
    this.chosen = this.number = ''
    this.#clear()
  }
  #clear() {
    this.#look.show(undefined)
    this.#look.problem = undefined
  }

  /** What a look comes to, as it would be put on record now. */
  judge = async () => {
    const card = this.card
    if (!card || (!this.chosen && !this.number)) return this.#clear()
    const by = this.number ? { number: this.#typed } : { verdict: this.chosen }
    const params = { path: { machine_id: this.machine(), sight: card.sight }, query: { part: card.part, ...by } }
    const got = await this.#look.ask((signal) =>
      ask(client.GET('/machines/{machine_id}/walk/{sight}', { params, signal })),
    )
    if (got) this.chosen = got.verdict
    else if (this.#look.problem) this.#look.show(undefined)
  }
  get #typed() {
    return Number(this.number.replace(',', '.'))
  }
  choose = async (verdict: string) => {
    this.chosen = verdict
    this.number = ''
    await this.judge()
  }
  /** By a key, what is as it should be is taken at once: there is nothing to read about it. */
  async choseByKey(verdict: string) {
    await this.choose(verdict)
    if (this.judged?.verdict === verdict && this.judged.finding.verdict === 'fine') await this.take()
  }
  take = async () => {
    const card = this.card
    if (!card) return
    if (!this.judged) await this.judge()
    const judged = this.judged
    if (!judged) return
    const group = (this.walk?.groups ?? 1) > 1 && groupOf(card.part) > 0 ? `, group ${groupOf(card.part)}` : ''
    const body: Schemas['LookIn'] = {
      id: newId(),
      sight: card.sight,
      part: card.part,
      verdict: judged.verdict,
      at: new Date().toISOString(),
      ...(this.number && { number: this.#typed }),
    }
    const params = { path: { machine_id: this.machine() } }
    if (!(await this.#look.try(() => ask(client.POST('/machines/{machine_id}/looks', { params, body }))))) return
    await loadHazards()
    if (judged.stops) await this.load(this.hot)
    else await this.go(this.at + 1)
    this.taken = `${card.title}${group}: ${judged.text.toLowerCase()}`
  }
  /** A look is taken back. */
  back = (look: string) =>
    this.#page.change(
      () => {
        const params = { path: { machine_id: this.machine(), look_id: look } }
        return ask(client.DELETE('/machines/{machine_id}/looks/{look_id}', { params, parseAs: 'text' }))
      },
      () => Promise.all([this.load(this.hot), loadHazards()]),
    )
}
