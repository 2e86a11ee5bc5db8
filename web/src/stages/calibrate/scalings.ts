import type { Channel } from '../../api/client'
import { fromSi, signalUnit, toSi } from '../../ui/units'

/** The forms of each kind of scaling: which fields it has, and in which unit each is shown. */

export type Scaling = Channel['scaling']
export type Kind = Scaling['kind']
/** A field is a plain number, a signal, a quantity in the channel's unit, or in ohm. */
type Measure = 'number' | 'signal' | 'quantity' | 'ohm'

interface Field {
  name: string
  label: string
  measure: Measure
  decimals: number
}

interface Form {
  label: string
  fields: readonly Field[]
  /** Which wirings it makes sense of, and of which of their quantities. */
  fits: (c: Channel) => boolean
  /** Where going over to it begins, so that nothing jumps. */
  seed: (c: Channel) => Scaling
}

const strain = (c: Channel) => c.wiring.kind === 'bridge' && c.quantity === 'strain'
const field = (name: string, label: string, measure: Measure, decimals: number): Field => ({
  name,
  label,
  measure,
  decimals,
})

/** The straight line through nothing that lies on what is in force. */
const line = (c: Channel) => {
  const step = toSi(1, signalUnit(c.signal))
  return { signal_1: 0, value_1: 0, signal_2: step, value_2: step * c.per_signal }
}

export const FORMS: Record<Kind, Form> = {
  gauge: {
    label: 'Gauge factor',
    fields: [
      field('gauge_factor', 'Gauge factor', 'number', 3),
      field('poisson_ratio', "Part's Poisson ratio", 'number', 3),
    ],
    fits: strain,
    seed: () => ({ kind: 'gauge', gauge_factor: 2, poisson_ratio: 0.3 }),
  },
  rated_output: {
    label: 'Rated output',
    fields: [
      field('rated_output', 'Rated output', 'signal', 4),
      field('capacity', 'Capacity', 'quantity', 3),
    ],
    fits: (c) => c.wiring.kind === 'inductive_half' || (c.wiring.kind === 'bridge' && !strain(c)),
    seed: (c) => ({ kind: 'rated_output', rated_output: 2e-3, capacity: 2e-3 * c.per_signal }),
  },
  loop_span: {
    label: 'Loop span',
    fields: [
      field('at_4_ma', 'At 4 mA', 'quantity', 3),
      field('at_20_ma', 'At 20 mA', 'quantity', 3),
    ],
    fits: (c) => c.wiring.kind === 'loop',
    seed: () => ({ kind: 'loop_span', at_4_ma: 0, at_20_ma: 1 }),
  },
  pulse_rate: {
    label: 'Pulses a turn',
    fields: [field('pulses_per_turn', 'Pulses a turn', 'number', 0)],
    fits: (c) => c.wiring.kind === 'pulses',
    seed: () => ({ kind: 'pulse_rate', pulses_per_turn: 60 }),
  },
  platinum: {
    label: 'Platinum, IEC 60751',
    fields: [field('nominal_ohm', 'At 0 °C', 'ohm', 2)],
    fits: (c) => c.wiring.kind === 'thermometer',
    seed: () => ({ kind: 'platinum', nominal_ohm: 100 }),
  },
  as_read: {
    label: 'As it is',
    fields: [],
    fits: (c) => c.wiring.kind === 'digital',
    seed: () => ({ kind: 'as_read', factor: 1, offset: 0 }),
  },
  two_points: {
    label: 'Two points',
    fields: [
      field('signal_1', 'Point 1, signal', 'signal', 4),
      field('value_1', 'Point 1, value', 'quantity', 4),
      field('signal_2', 'Point 2, signal', 'signal', 4),
      field('value_2', 'Point 2, value', 'quantity', 4),
    ],
    fits: () => true,
    seed: (c) => ({ kind: 'two_points', ...line(c) }),
  },
  table: {
    label: 'Table of points',
    fields: [],
    fits: () => true,
    seed: (c) => {
      const { signal_1, value_1, signal_2, value_2 } =
        c.scaling.kind === 'two_points' ? c.scaling : line(c)
      const points = [
        { signal: signal_1, value: value_1 },
        { signal: signal_2, value: value_2 },
      ]
      return { kind: 'table', points: points.sort((a, b) => a.signal - b.signal) }
    },
  },
  polynomial: {
    label: 'Polynomial',
    fields: [],
    fits: () => true,
    seed: (c) => {
      const [lowest = 0, highest = toSi(1, signalUnit(c.signal))] = c.ends
      return { kind: 'polynomial', coefficients: [0, c.per_signal || 1], lowest, highest }
    },
  },
}

export const kindsFor = (c: Channel): readonly (readonly [Kind, string])[] =>
  (Object.entries(FORMS) as [Kind, Form][])
    .filter(([kind, form]) => form.fits(c) || kind === c.scaling.kind)
    .map(([kind, form]) => [kind, form.label] as const)

export function unitOf({ measure }: Field, c: Channel): string {
  if (measure === 'signal') return signalUnit(c.signal)
  return { quantity: c.unit, ohm: 'Ω', number: '' }[measure]
}

export const shownValue = (f: Field, c: Channel): number =>
  fromSi((c.scaling as unknown as Record<string, number>)[f.name]!, unitOf(f, c))

/** The scaling with one of its fields changed, from what a person typed. */
export const withField = (f: Field, c: Channel, value: number): Scaling =>
  ({ ...c.scaling, [f.name]: toSi(value, unitOf(f, c)) }) as Scaling
