/** How corrections of recorded runs are set; a new kind adds a line here. */

import type { Correction, RunReading } from '../../api/readings'
import type { Channel } from '../../api/client'
import type { NumberField } from '../../ui/Numbers'
import { unitsOf } from '../../ui/units'
import type { ChoiceField } from '../SpecFields'

type Kind = NonNullable<Correction['kind']>
export type Of<K extends Kind> = Extract<Correction, { kind?: K }>

export interface CorrectionForm<K extends Kind = Kind> {
  label: string
  fields: (channel: RunReading) => readonly NumberField[]
  /** How it begins for a channel, as the run and as the setup now has it; null where it does not fit. */
  seed: (channel: RunReading, now?: Channel) => Of<K> | null
  /** Choices beside the numbers: field, label, values with words. */
  choices?: (channel: RunReading) => readonly ChoiceField[]
  /** It takes over what Calibrate has, so that nothing is typed. */
  asNow?: boolean
  /** What a person should know of it. */
  note?: string
}

const none = () => []
const measured = (c: RunReading) => !c.formula
const of = (c: RunReading) => ({ key: '', on: true, name: '', channels: [c.key] })
const inUnit =
  (name: string, label: string, clearable = false) =>
  (c: RunReading) => [{ name, label, unit: c.unit, by: c.factor, decimals: c.decimals, clearable }]
const seconds = (name: string, label: string): NumberField => ({
  name,
  label,
  unit: 's',
  decimals: 3,
})

/** A kind that has no line here is shown by its name and cannot be made by hand. */
export const CORRECTIONS: { readonly [K in Kind]?: CorrectionForm<K> } = {
  gauge_factor_correction: {
    label: 'Gauge factor',
    fields: () => [{ name: 'gauge_factor', label: 'Gauge factor', decimals: 3 }],
    seed: (c) =>
      measured(c) && c.quantity === 'strain'
        ? { kind: 'gauge_factor_correction', gauge_factor: 2.0, ...of(c) }
        : null,
  },
  scaling_correction: {
    label: 'Scaling, as it is now',
    asNow: true,
    fields: none,
    seed: (c, now) => (now ? { kind: 'scaling_correction', scaling: now.scaling, ...of(c) } : null),
    note: 'The scaling that Calibrate has for the channel now. Put it right there first.',
  },
  zero_correction: {
    label: 'Zero, as it is now',
    asNow: true,
    fields: none,
    seed: (c, now) =>
      now?.zero != null ? { kind: 'zero_correction', zero: now.zero, ...of(c) } : null,
    note: 'The zero that Calibrate has for the channel now, in place of the one of the run.',
  },
  steps_correction: {
    label: 'Steps, as they are now',
    asNow: true,
    fields: none,
    seed: (c, now) => (now ? { kind: 'steps_correction', steps: now.steps, ...of(c) } : null),
    note: 'The filters and corrections that Calibrate has for the channel now, as from the beginning.',
  },
  sign_correction: {
    label: 'Sign',
    fields: none,
    seed: (c) => (measured(c) ? { kind: 'sign_correction', ...of(c) } : null),
    note: 'Each reading counts the other way.',
  },
  resample: {
    label: 'Resample',
    fields: () => [{ name: 'to_hz', label: 'As at', unit: 'Hz', decimals: 1 }],
    seed: (c) => ({ kind: 'resample', to_hz: 50, ...of(c) }),
    note: 'What a lower rate could not hold is filtered out, without delay.',
  },
  tare_correction: {
    label: 'Tare',
    fields: inUnit('tare', 'Taken off'),
    seed: (c) => (measured(c) ? { kind: 'tare_correction', tare: 0, ...of(c) } : null),
  },
  unit_correction: {
    label: 'Unit',
    fields: none,
    choices: (c) => [['unit', 'Values are in', unitsOf(c.quantity).map((u) => [u, u] as const)]],
    seed: (c) =>
      measured(c) && unitsOf(c.quantity).length > 1
        ? { kind: 'unit_correction', unit: c.unit, ...of(c) }
        : null,
    note: 'Of values that came ready made, as out of a file, what they were; of a measured signal the unit in which it is read.',
  },
  scale_correction: {
    label: 'Scale',
    fields: () => [{ name: 'factor', label: 'Multiply by', decimals: 6 }],
    seed: (c) => ({ kind: 'scale_correction', factor: 1, ...of(c) }),
  },
  offset_correction: {
    label: 'Offset',
    fields: inUnit('offset', 'Add'),
    seed: (c) => ({ kind: 'offset_correction', offset: 0, ...of(c) }),
  },
  time_shift: {
    label: 'Shift in time',
    fields: () => [{ name: 'seconds', label: 'Later by', unit: 'ms', by: 1e-3, decimals: 2 }],
    seed: (c) => ({ kind: 'time_shift', seconds: 0, ...of(c) }),
  },
  time_base: {
    label: 'Time base',
    fields: () => [{ name: 'factor', label: 'Multiply its time by', decimals: 6 }],
    seed: (c) => (measured(c) ? { kind: 'time_base', factor: 1, ...of(c) } : null),
    note: 'It moves all channels of the same device.',
  },
  despike: {
    label: 'Despike',
    fields: () => [
      { name: 'reach', label: 'Readings to each side', decimals: 0 },
      { name: 'deviations', label: 'Deviations allowed', decimals: 1 },
    ],
    seed: (c) => ({ kind: 'despike', reach: 5, deviations: 4, ...of(c) }),
    note: 'A reading farther off the median of its neighbours becomes that median (Hampel).',
  },
  zero_phase_filter: {
    label: 'Zero-phase filter',
    fields: () => [
      { name: 'corner_hz', label: 'Corner', unit: 'Hz', decimals: 2 },
      { name: 'order', label: 'Order', decimals: 0 },
    ],
    choices: () => [
      ['band', 'Kind', [['low-pass', 'Low-pass'], ['high-pass', 'High-pass']]],
      ['family', 'Shape', [['Butterworth', 'Butterworth'], ['Bessel', 'Bessel']]],
    ], // prettier-ignore
    seed: (c) => ({ kind: 'zero_phase_filter', band: 'low-pass', corner_hz: 20, order: 4, family: 'Butterworth', ...of(c) }), // prettier-ignore
    note: 'Forwards and backwards: no delay, and half the amplitude (−6 dB) at the corner.',
  },
  detrend: {
    label: 'Detrend',
    fields: none,
    seed: (c) => ({ kind: 'detrend', ...of(c) }),
    note: 'Each piece without a gap, less its least-squares line.',
  },
  window_zero: {
    label: 'Zero on a window',
    fields: () => [seconds('from_s', 'From'), seconds('to_s', 'To')],
    seed: (c) => ({ kind: 'window_zero', from_s: 0, to_s: 1, ...of(c) }),
    note: 'The mean of the window is taken off all readings.',
  },
}

export const correctionForm = (kind: string): CorrectionForm | undefined =>
  CORRECTIONS[kind as Kind] as unknown as CorrectionForm | undefined

/** The corrections that fit a channel. */
export const correctionsFor = (channel: RunReading, now?: Channel): [Kind, string][] =>
  (Object.entries(CORRECTIONS) as unknown as [Kind, CorrectionForm][])
    .filter(([, form]) => form.seed(channel, now))
    .map(([kind, form]) => [kind, form.label])
