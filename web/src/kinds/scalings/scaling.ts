import type { ReactNode } from 'react'

import type { Channel } from '../../api/client'
import { fromSi, signalUnit, toSi } from '../../ui/units'

export type Scaling = Channel['scaling']
export type Name = Scaling['kind']
type Of<K extends Name> = Extract<Scaling, { kind: K }>
/** A field is a plain number, a signal, a quantity in the channel's unit, or in ohm or volt. */
type Measure = 'number' | 'signal' | 'quantity' | 'ohm' | 'volt' | 'millivolt'

export interface Field {
  name: string
  label: string
  measure: Measure
  decimals: number
}

export interface FormProps<K extends Name = Name> {
  channel: Channel
  scaling: Of<K>
  disabled: boolean
}

/** How one kind of scaling is set. */
export interface ScalingKind<K extends Name = Name> {
  label: string
  fields: readonly Field[]
  /** Where going over to it begins, so that nothing jumps. */
  seed: (c: Channel) => Scaling
  /** Beside `fields`, where numbers alone do not say it. */
  Form?: (props: FormProps<K>) => ReactNode
  /** A sentence on how it is computed. */
  note?: string
  /** The figure that tells sensors of this kind from one another, with its unit. */
  factor?: (scaling: Of<K>) => string
}

export const field = (name: string, label: string, measure: Measure, decimals: number): Field => ({
  name,
  label,
  measure,
  decimals,
})

/** The straight line through nothing that lies on what is in force. */
export const line = (c: Channel) => {
  const step = toSi(1, signalUnit(c.signal))
  return { signal_1: 0, value_1: 0, signal_2: step, value_2: step * c.per_signal }
}

export function unitOf({ measure }: Field, c: Channel): string {
  if (measure === 'signal') return signalUnit(c.signal)
  return { quantity: c.unit, ohm: 'Ω', number: '', volt: 'V', millivolt: 'mV' }[measure]
}

export const shownValue = (f: Field, c: Channel): number =>
  fromSi((c.scaling as unknown as Record<string, number>)[f.name]!, unitOf(f, c))

/** The scaling with one of its fields changed, from what a person typed. */
export const withField = (f: Field, c: Channel, value: number): Scaling =>
  ({ ...c.scaling, [f.name]: toSi(value, unitOf(f, c)) }) as Scaling
