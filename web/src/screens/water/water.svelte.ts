// What is tried of a water and not kept.
import type { Schemas } from '../../data/api'

type If = Schemas['WaterIf']

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
