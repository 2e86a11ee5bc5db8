/** What can be read of a setup: measured channels, then those that are computed. */

import type { Channel, Setup } from './api/client'
import type { Computed } from './api/computed'

export interface Readable {
  key: string
  name: string
  unit: string
  decimals: number
  /** Empty of a computed channel whose unit is of no quantity. */
  quantity: string
  recorded: boolean
  measured?: Channel
  computed?: Computed
}

export const readablesOf = ({ channels, computed }: Setup): Readable[] => [
  ...channels.map((c) => ({ ...shape(c), recorded: c.recorded, measured: c })),
  ...computed.map((c) => ({ ...shape(c), recorded: false, computed: c })),
]

const shape = ({ key, name, unit, decimals, quantity }: Shape): Shape => ({
  key,
  name,
  unit,
  decimals,
  quantity,
})

type Shape = Pick<Readable, 'key' | 'name' | 'unit' | 'decimals' | 'quantity'>

/** The reading at the end of what the signal may do, SI. */
export const fullScale = (c: Channel): number =>
  Math.max(...c.ends.map(Math.abs)) * Math.abs(c.per_signal)
