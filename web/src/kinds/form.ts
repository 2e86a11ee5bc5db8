import type { ReactNode } from 'react'

import type { Run, Setup } from '../api/client'
import type { Readable } from '../readable'
import type { NumberField } from '../ui/Numbers'
import type { ChoiceField } from './SpecFields'

export type Specimen = Run['piece']
export type Motion = Setup['motion']
export type Stop = Setup['stops'][number]
export type Guard = Setup['guards'][number]
export type KeepRule = Setup['keep_rules'][number]
export type Trigger = Setup['trigger']
export type Leg = Extract<Motion, { kind?: 'programme' }>['legs'][number]

interface OfKind {
  kind?: string
}

export interface FieldsProps<S> {
  spec: S
  channels: readonly Readable[]
  disabled: boolean
  onSave: (spec: S) => Promise<unknown>
}

/** How one kind of specimen, motion, leg, stop, guard, keep rule or trigger is set. */
export interface Form<S> {
  label: string
  fields: readonly NumberField[]
  /** Where it begins; null where the channels do not allow it. */
  seed: (channels: readonly Readable[]) => S | null
  /** Fields that take one of a few values, after the numbers. */
  choices?: readonly ChoiceField[]
  /** Whether a setup may have several of it. */
  several?: boolean
  /** Of a motion: what starting it is called. */
  start?: string
  /** Of a keep rule: the channel whose cycles it keeps, and of how many cycles one. */
  cyclesOf?: (spec: S) => { channel: string; every: number }
  /** Of a leg: whether its steps are averaged into the table of the run. */
  averages?: boolean
  /** What it says in a few words, behind its label. */
  says?: (spec: S, channels: readonly Readable[]) => string
  /** In place of `fields`, where numbers alone do not say it. */
  Fields?: (props: FieldsProps<S>) => ReactNode
}
export type Forms<S extends OfKind> = {
  readonly [K in NonNullable<S['kind']>]: Form<Extract<S, { kind?: K }>>
}

/** The form of a kind: its own spec is handed back to it. */
export const formOf = <S extends OfKind>(forms: Forms<S>, kind: string): Form<S> =>
  forms[kind as keyof Forms<S>] as unknown as Form<S>

export const kindsOf = <S extends OfKind>(forms: Forms<S>): [string, string][] =>
  Object.keys(forms).map((kind) => [kind, formOf(forms, kind).label])

export const mm = (name: string, label: string): NumberField => ({
  name,
  label,
  unit: 'mm',
  by: 1e-3,
  decimals: 2,
})
export const newton = (name: string, label: string): NumberField => ({
  name,
  label,
  unit: 'N',
  decimals: 0,
})
export const gaugeLength = mm('gauge_length_m', 'Gauge length')
