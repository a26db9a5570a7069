// What the water page shows and does, and what is tried of a water and not kept.
import { untrack } from 'svelte'
import { ask, client, newId, type BenchMachine, type Schemas } from '../../data/api'
import { Act, Resource } from '../../data/resource.svelte'
import { askBench } from '../../data/state.svelte'

type If = Schemas['WaterIf']
type Work = Schemas['WaterAtWork']

export class Tried {
  sample = $state<Schemas['WaterSample']>()
  hardness = $state<number>()
  drinks = $state<number>()
  hours = $state<number>()
  kind = $state<Schemas['TreatmentSetting']['kind']>()

  get any(): boolean {
    return [this.sample, this.hardness, this.drinks, this.hours, this.kind].some((x) => x !== undefined)
  }
  reset() {
    this.sample = this.hardness = this.drinks = this.hours = this.kind = undefined
  }
  /** As it is asked of the server; the treatments as they are laid out. */
  body(table: Schemas['TreatmentRow'][]): If {
    const { sample, hardness, drinks, hours, kind } = this
    return {
      ...(sample
        ? { sample }
        : hardness !== undefined && { sample: { hardness: { value: hardness, unit: 'mg_l_caco3' as const } } }),
      ...(drinks !== undefined && { drinks }),
      ...(hours !== undefined && { hours_on: hours }),
      ...(kind && { treatment: table.find((r) => r.setting.kind === kind)!.setting }),
    }
  }
}

export class WaterPage {
  readonly tried = new Tried()
  readonly act = new Act()
  entering = $state(false)
  machines = $state<BenchMachine[]>([])
  #page = new Resource<[Work, Schemas['Waters']]>()
  #other = new Resource<Work>() // what if

  constructor() {
    void this.act.try(async () => {
      this.machines = (await askBench()).machines
    })
  }
  get water(): Work | undefined {
    return this.#page.value?.[0]
  }
  get waters(): Schemas['Waters'] | undefined {
    return this.#page.value?.[1]
  }
  get other(): Work | undefined {
    return this.#other.value
  }
  get problem() {
    return this.act.problem ?? this.#page.problem ?? (this.entering ? undefined : this.#other.problem)
  }
  /** What is being typed cannot be taken as it is. */
  get refused() {
    return this.entering ? this.#other.problem : undefined
  }

  async load(machine: string) {
    const got = await this.#page.ask((signal) =>
      Promise.all([
        ask(client.GET('/machines/{machine_id}/water', { params: { path: { machine_id: machine } }, signal })),
        ask(client.GET('/waters', { signal })),
      ]),
    )
    if (got) document.title = `Water, ${got[0].machine_name} · Fresh Anvil`
  }
  /** Does something, and looks again. */
  again = (call: () => Promise<unknown>) =>
    this.act.try(async () => {
      await call()
      if (this.water) await this.load(this.water.machine_id)
    })
  draw = (source: string | undefined, treatment: Schemas['TreatmentSetting']) =>
    ask(
      client.POST('/machines/{machine_id}/water', {
        params: { path: { machine_id: this.water!.machine_id } },
        body: { id: newId(), treatment, ...(source && { source_id: source }) },
      }),
    )
  /** A reading was saved of a source: the machine draws from it from now on. */
  kept = (source: string) =>
    this.again(async () => {
      this.enter(false)
      // a reading more of the source it draws from already changes nothing about that
      if (this.water && this.water.source?.id !== source) await this.draw(source, this.water.treatment)
    })
  enter(on: boolean) {
    this.entering = on
    this.tried.sample = undefined
  }
  /** A treatment was chosen; what was tried is over. */
  chosen(water: Work) {
    this.tried.reset()
    void this.load(water.machine_id)
  }

  /** What if, asked of the server as the hand moves: the date at once, the table when the hand rests. */
  try(): (() => void) | undefined {
    const water = this.water
    if (!this.tried.any || !water) {
      this.#other.show(undefined)
      return undefined
    }
    const body = this.tried.body(water.table)
    const path = { params: { path: { machine_id: water.machine_id } } }
    let laidOut = untrack(() => this.other?.table) ?? water.table
    const put = (table: boolean) =>
      this.#other.ask(async (signal) => {
        const got = await ask(
          client.POST('/machines/{machine_id}/water/if', { ...path, body: { ...body, table }, signal }),
        )
        if (got.table.length > 0) laidOut = got.table
        return { ...got, table: laidOut }
      })
    void put(false)
    const rest = setTimeout(() => void put(true), 300)
    return () => clearTimeout(rest)
  }
}
