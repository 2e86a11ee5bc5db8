import type { Channel } from '../../api/client'
import { asRead } from './asRead'
import { gauge } from './gauge'
import { loopSpan } from './loopSpan'
import { platinum } from './platinum'
import { polynomial } from './polynomial'
import { pulseRate } from './pulseRate'
import { ratedOutput } from './ratedOutput'
import type { Name, ScalingKind } from './scaling'
import { statedOutput } from './statedOutput'
import { table } from './table'
import { twoPoints } from './twoPoints'

/** How a signal becomes a quantity; a new kind adds a file and a line here. */
const SCALINGS: { readonly [K in Name]: ScalingKind<K> } = {
  gauge,
  rated_output: ratedOutput,
  stated_output: statedOutput,
  loop_span: loopSpan,
  pulse_rate: pulseRate,
  platinum,
  as_read: asRead,
  two_points: twoPoints,
  table,
  polynomial,
}

/** A kind that has no file here is shown by its name. */
const generic = (name: string): ScalingKind => ({
  label: name.replaceAll('_', ' '),
  fields: [],
  seed: (c) => c.scaling,
})

export const scalingKind = (name: string): ScalingKind =>
  (SCALINGS[name as Name] as unknown as ScalingKind | undefined) ?? generic(name)

/** The kinds that make sense of a channel, and the one that is in force. */
export const kindsFor = ({ scalings, scaling }: Channel): [Name, string][] =>
  ([...new Set([...scalings, scaling.kind])] as Name[]).map((k) => [k, scalingKind(k).label])

/** The figure that tells its sensor from others of its kind. */
export const factorOf = ({ scaling }: Channel): string =>
  scalingKind(scaling.kind).factor?.(scaling) ?? ''
