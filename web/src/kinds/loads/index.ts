/** What a channel is calibrated against; a new kind adds a line here. */

import type { Loads } from '../../api/calibrations'
import type { Channel, Setup } from '../../api/client'
import type { NumberField } from '../../ui/Numbers'
import type { ChoiceField } from '../SpecFields'

type Kind = NonNullable<Loads['kind']>
type Of<K extends Kind> = Extract<Loads, { kind?: K }>

export interface LoadsForm<K extends Kind = Kind> {
  label: string
  /** Which of its fields lists what is put on, its words, and the unit it is typed in. */
  list: (channel: Channel) => { field: string; label: string; unit: string }
  fields: (channel: Channel) => readonly NumberField[]
  choices?: (channel: Channel, setup: Setup) => readonly ChoiceField[]
  /** How it begins for steps up to a largest load (SI); null where the channel has no use for it. */
  seed: (channel: Channel, setup: Setup, steps: readonly number[]) => Of<K> | null
}

const relative: NumberField = {
  name: 'relative',
  label: 'Their uncertainty, k = 2',
  unit: '%',
  by: 0.01,
  decimals: 4,
}
const others = (channel: Channel, setup: Setup) =>
  setup.channels.filter((c) => c.key !== channel.key && c.quantity === channel.quantity)
const GRAVITY = 9.80665

export const LOADS: { readonly [K in Kind]: LoadsForm<K> } = {
  reference_channel: {
    label: 'A reference in series',
    list: (c) => ({ field: 'values', label: 'Loads', unit: c.unit }),
    fields: () => [],
    choices: (c, setup) => [
      ['channel', 'Reference', others(c, setup).map((o) => [o.key, o.name] as const)],
    ],
    seed: (c, setup, steps) => {
      const [first] = others(c, setup)
      return first ? { kind: 'reference_channel', channel: first.key, values: [...steps] } : null
    },
  },
  weights: {
    label: 'Weights',
    list: () => ({ field: 'masses', label: 'Hung at each load', unit: 'kg' }),
    fields: (c) => [
      { name: 'gravity', label: 'Local gravity', unit: 'm/s²', decimals: 5 },
      { name: 'density', label: 'Density of the weights', unit: 'kg/m³', decimals: 0 },
      ...(c.quantity === 'torque'
        ? [{ name: 'arm_m', label: 'Arm', unit: 'mm', by: 1e-3, decimals: 2 }]
        : []),
      relative,
    ],
    seed: (c, _, steps) =>
      c.quantity === 'force' || c.quantity === 'torque'
        ? {
            kind: 'weights',
            masses: steps.map((f) => +(f / GRAVITY).toPrecision(2)),
            gravity: GRAVITY,
            density: 8000,
            arm_m: c.quantity === 'torque' ? 1 : 0,
            relative: 1e-4,
          }
        : null,
  },
  known_values: {
    label: 'Known values',
    list: (c) => ({ field: 'values', label: 'Values', unit: c.unit }),
    fields: () => [relative],
    seed: (_, __, steps) => ({ kind: 'known_values', values: [...steps], relative: 1e-4 }),
  },
}

export const loadsForm = (kind: string): LoadsForm => LOADS[kind as Kind] as unknown as LoadsForm

/** The kinds that a channel can be calibrated against, with how each begins. */
export const loadsFor = (channel: Channel, setup: Setup, steps: readonly number[]) =>
  (Object.entries(LOADS) as unknown as [Kind, LoadsForm][]).flatMap(([kind, form]) => {
    const seed = form.seed(channel, setup, steps)
    return seed ? [[kind, form.label, seed] as const] : []
  })
