/** How the steps of a channel's reading are set; a new kind adds a line here. */

import type { Channel, Setup } from '../../api/client'
import type { NumberField } from '../../ui/Numbers'
import { isGauge } from '../scalings/gauge'
import type { ChoiceField } from '../SpecFields'

export type Step = Channel['steps'][number]
type Kind = NonNullable<Step['kind']>
export type StepOf<K extends Kind> = Extract<Step, { kind?: K }>

export interface StepForm<K extends Kind = Kind> {
  label: string
  fields: readonly NumberField[]
  choices?: readonly ChoiceField[]
  /** It has a response that can be drawn. */
  isFilter?: boolean
  /** How it begins; null where the channel, or the setup, has no use for it. */
  seed: (channel: Channel, setup: Setup) => StepOf<K> | null
  /** What it says in the chain. */
  says: (step: StepOf<K>) => string
  note?: string
}

const SHAPES = ['family', 'Shape', [['Butterworth', 'Butterworth'], ['Bessel', 'Bessel']]] as const // prettier-ignore
const corner: NumberField = { name: 'corner_hz', label: 'Corner', unit: 'Hz', decimals: 2 }
const order: NumberField = { name: 'order', label: 'Order', decimals: 0 }
const thermometer = (setup: Setup) => setup.channels.find((c) => c.quantity === 'temperature')?.key
const on = true

export const STEPS: { readonly [K in Kind]?: StepForm<K> } = {
  low_pass: {
    label: 'Low-pass',
    fields: [corner, order],
    choices: [SHAPES],
    isFilter: true,
    seed: () => ({ kind: 'low_pass', on, corner_hz: 20, order: 4, family: 'Butterworth' }),
    says: (s) => `${s.corner_hz} Hz`,
  },
  high_pass: {
    label: 'High-pass',
    fields: [corner, order],
    choices: [SHAPES],
    isFilter: true,
    seed: () => ({ kind: 'high_pass', on, corner_hz: 1, order: 2, family: 'Butterworth' }),
    says: (s) => `${s.corner_hz} Hz`,
  },
  mains_rejection: {
    label: 'Mains rejection',
    fields: [{ name: 'mains_hz', label: 'Mains', unit: 'Hz', decimals: 0 }],
    isFilter: true,
    seed: () => ({ kind: 'mains_rejection', on, mains_hz: 50 }),
    says: (s) => `${s.mains_hz} Hz`,
    note: 'Takes out 2 Hz about the mains and up to ten of its multiples.',
  },
  shunt_span: {
    label: 'Span by shunt',
    fields: [{ name: 'factor', label: 'Factor', decimals: 5 }],
    seed: () => null, // a shunt check makes it
    says: (s) => `× ${s.factor.toFixed(4)}`,
    note: 'The step due over the step read, of the newest shunt check when it was put in.',
  },
  transverse_sensitivity: {
    label: 'Transverse sensitivity',
    fields: [
      { name: 'sensitivity', label: 'Sensitivity', unit: '%', by: 0.01, decimals: 2 },
      { name: 'poisson_ratio', label: "Part's Poisson's ratio", decimals: 3 },
    ],
    seed: (c) =>
      isGauge(c)
        ? { kind: 'transverse_sensitivity', on, sensitivity: 0.004, poisson_ratio: 0.3 }
        : null,
    says: (s) => `${+(s.sensitivity * 100).toFixed(2)} %`,
    note: 'For a single grid in uniaxial stress; a rosette corrects its grids together.',
  },
  thermal_output: {
    label: 'Thermal output',
    fields: [],
    seed: (c, setup) => {
      const temperature = thermometer(setup)
      return isGauge(c) && temperature
        ? { kind: 'thermal_output', on, temperature, coefficients: [0, 0] }
        : null
    },
    says: (s) => `order ${s.coefficients.length - 1}`,
    note: "The data sheet's polynomial over °C, measured with a gauge factor of 2.0.",
  },
  gauge_factor_slope: {
    label: 'Gauge factor against temperature',
    fields: [
      { name: 'per_kelvin', label: 'Change', unit: '% per 100 K', by: 1e-4, decimals: 2 },
      { name: 'reference_c', label: 'Stated factor holds at', unit: '°C', decimals: 1 },
    ],
    seed: (c, setup) => {
      const temperature = thermometer(setup)
      return isGauge(c) && temperature
        ? { kind: 'gauge_factor_slope', on, temperature, per_kelvin: 1e-4, reference_c: 23 }
        : null
    },
    says: (s) => `${+(s.per_kelvin * 1e4).toFixed(2)} % / 100 K`,
  },
  absolute_pressure: {
    label: 'Absolute pressure',
    fields: [{ name: 'air_pa', label: 'Barometer', unit: 'mbar', by: 100, decimals: 1 }],
    seed: (c) =>
      c.quantity === 'pressure' ? { kind: 'absolute_pressure', on, air_pa: 101_325 } : null,
    says: (s) => `+ ${+(s.air_pa / 100).toFixed(1)} mbar`,
    note: 'The preflight list asks for it on each day.',
  },
}

export const stepForm = (kind: string): StepForm | undefined =>
  STEPS[kind as Kind] as unknown as StepForm | undefined

/** Steps that a channel may have and has not. */
export const stepsFor = (channel: Channel, setup: Setup): [Kind, string][] =>
  (Object.entries(STEPS) as unknown as [Kind, StepForm][])
    .filter(([kind, form]) => {
      return !channel.steps.some((s) => s.kind === kind) && form.seed(channel, setup)
    })
    .map(([kind, form]) => [kind, form.label])
