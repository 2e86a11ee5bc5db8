import type { Run, Setup } from '../api/client'
import type { NumberField } from '../ui/Numbers'

/** The forms of pieces, motions and stops: by kind its name, its fields, and where it begins. */

export type Piece = Run['piece']
export type Motion = Setup['motion']
export type Stop = Setup['stops'][number]

export interface Form<S extends { kind?: string }> {
  label: string
  fields: readonly NumberField[]
  seed: S
}
export type Forms<S extends { kind?: string }> = Record<NonNullable<S['kind']>, Form<S>>

const mm = (name: string, label: string): NumberField => ({
  name,
  label,
  unit: 'mm',
  by: 1e-3,
  decimals: 2,
})
const newton = (name: string, label: string): NumberField => ({
  name,
  label,
  unit: 'N',
  decimals: 0,
})
const gaugeLength = mm('gauge_length_m', 'Gauge length')

export const PIECES: Forms<Piece> = {
  flat: {
    label: 'Flat coupon',
    fields: [mm('width_m', 'Width'), mm('thickness_m', 'Thickness'), gaugeLength],
    seed: { kind: 'flat', width_m: 12.5e-3, thickness_m: 3e-3, gauge_length_m: 50e-3 },
  },
  round: {
    label: 'Round bar',
    fields: [mm('diameter_m', 'Diameter'), gaugeLength],
    seed: { kind: 'round', diameter_m: 10e-3, gauge_length_m: 50e-3 },
  },
  tube: {
    label: 'Tube',
    fields: [mm('outer_m', 'Outside'), mm('wall_m', 'Wall'), gaugeLength],
    seed: { kind: 'tube', outer_m: 30e-3, wall_m: 2e-3, gauge_length_m: 50e-3 },
  },
  area: {
    label: 'Other section',
    fields: [
      { name: 'section_m2', label: 'Section', unit: 'mm²', by: 1e-6, decimals: 2 },
      gaugeLength,
    ],
    seed: { kind: 'area', section_m2: 50e-6, gauge_length_m: 50e-3 },
  },
  part: { label: 'Part', fields: [], seed: { kind: 'part' } },
}

export const MOTIONS: Forms<Motion> = {
  none: { label: 'Nothing moves', fields: [], seed: { kind: 'none' } },
  ramp: {
    label: 'Pull',
    fields: [
      { name: 'speed_m_s', label: 'Speed', unit: 'mm/s', by: 1e-3, decimals: 3 },
      mm('travel_limit_m', 'At most'),
    ],
    seed: { kind: 'ramp', speed_m_s: 1.85e-4, travel_limit_m: 12e-3 },
  },
  force_ramp: {
    label: 'To a force and back',
    fields: [newton('peak_n', 'Peak'), { ...newton('rate_n_s', 'Rate'), unit: 'N/s' }],
    seed: { kind: 'force_ramp', peak_n: 1000, rate_n_s: 200 },
  },
  force_sine: {
    label: 'Sine of force',
    fields: [
      newton('lowest_n', 'Lowest'),
      newton('highest_n', 'Highest'),
      { name: 'frequency_hz', label: 'Frequency', unit: 'Hz', decimals: 2 },
    ],
    seed: { kind: 'force_sine', lowest_n: 100, highest_n: 1000, frequency_hz: 5 },
  },
}

export const STOPS: Forms<Stop> = {
  force_drop: {
    label: 'Force falls',
    fields: [
      { name: 'share', label: 'By', unit: '%', by: 0.01, decimals: 0 },
      newton('arm_n', 'Once above'),
    ],
    seed: { kind: 'force_drop', share: 0.4, arm_n: 500 },
  },
  time: {
    label: 'Time',
    fields: [{ name: 'seconds', label: 'After', unit: 's', decimals: 1 }],
    seed: { kind: 'time', seconds: 60 },
  },
  cycles: {
    label: 'Cycles',
    fields: [{ name: 'cycles', label: 'After', unit: 'cycles', decimals: 0 }],
    seed: { kind: 'cycles', cycles: 1000 },
  },
  motion_end: { label: 'Motion is done', fields: [], seed: { kind: 'motion_end' } },
  limit: {
    label: 'Limit of a channel',
    fields: [],
    seed: { kind: 'limit', channel: '', lowest: null, highest: null },
  },
}

export const kindsOf = <S extends { kind?: string }>(forms: Forms<S>) =>
  (Object.entries(forms) as [NonNullable<S['kind']>, Form<S>][]).map(
    ([kind, { label }]) => [kind, label] as const,
  )
