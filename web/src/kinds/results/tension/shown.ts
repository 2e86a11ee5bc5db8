import type { Parameters } from '../../../api/results'
import type { Details, Parameters as Of } from '../kind'

/** Points of a stress-strain curve: strain in m/m with the toe taken off, stress in Pa. */
export interface Points {
  readonly strain: Float32Array
  readonly stress: Float32Array
}

/** What the plots show of a run. */
export interface Shown {
  recipe: Of<'tension'>
  result: Details<'tension'>
  /** The whole curve, and its elastic part in more detail. */
  curve: { readonly whole: Points; readonly near: Points }
  name: string
  change: (to: Partial<Parameters>) => Promise<void>
}
