import type { Schemas } from '../../api/client'

type Wiring = Schemas['ChannelOut']['wiring']

const CIRCUITS: Record<string, string> = {
  quarter: 'quarter bridge',
  half_bending: 'half bridge, bending pair',
  half_poisson: 'half bridge, Poisson pair',
  half_opposite: 'half bridge, opposite arms',
  full_bending: 'full bridge',
  full_bending_poisson: 'full bridge, bending with Poisson',
  full_axial: 'full bridge',
  full_torsion: 'full bridge, torsion',
}

const PLAIN: Record<Exclude<Wiring['kind'], 'bridge'>, string> = {
  potentiometer: 'potentiometer',
  inductive_half: 'inductive half bridge',
  pulses: 'pulses',
  loop: '4-20 mA loop',
  voltage: 'voltage',
  thermometer: 'resistance thermometer',
  digital: 'numbers, ready made',
}

/** `full, 6-wire`: for where room is short. */
export const circuitShort = (w: Wiring): string =>
  w.kind === 'bridge'
    ? `${w.circuit.split('_')[0]}, ${w.wires}-wire`
    : w.kind === 'thermometer'
      ? `Pt, ${w.wires}-wire`
      : PLAIN[w.kind]

export const circuitWords = (w: Wiring): string => {
  if (w.kind === 'bridge') return `${CIRCUITS[w.circuit] ?? w.circuit}, ${w.wires}-wire`
  return w.kind === 'thermometer' ? `${PLAIN[w.kind]}, ${w.wires}-wire` : PLAIN[w.kind]
}

const SENSORS: Record<string, string> = {
  potentiometer: 'potentiometer',
  inductive_half: 'inductive half bridge',
  pulses: 'pulses',
  loop: '4-20 mA loop',
  voltage: 'voltage output',
  platinum: 'platinum thermometer',
  digital: 'numbers, ready made',
}

/** What a sensor of the library is, before it is wired. */
export const sensorWords = (spec: Schemas['SensorOut']['spec']): string =>
  'circuit' in spec
    ? circuitWords({ ...spec, kind: 'bridge', lead_length_m: 0, lead_ohm_per_m: 0 })
    : (SENSORS[spec.kind] ?? spec.kind)

const ARMS: Record<string, number[]> = {
  quarter: [1],
  half_bending: [1, 2],
  half_poisson: [1, 2],
  half_opposite: [1, 3],
}

/** The arms that a sensor of the library strains. */
export const armsOf = ({ spec }: Pick<Schemas['SensorOut'], 'spec'>): number[] => {
  if (spec.kind === 'rosette') return [1]
  return 'circuit' in spec ? (ARMS[spec.circuit] ?? [1, 2, 3, 4]) : []
}
