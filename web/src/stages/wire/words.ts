import type { Channel } from '../../api/client'

const ARRANGEMENTS: Record<string, string> = {
  quarter: 'quarter bridge',
  half_bending: 'half bridge, bending pair',
  half_poisson: 'half bridge, Poisson pair',
  half_opposite: 'half bridge, opposite arms',
  full_bending: 'full bridge',
  full_axial: 'full bridge',
  full_torsion: 'full bridge, torsion',
}

/** `full, 6-wire`: for where room is short. */
export const circuitShort = (c: Pick<Channel, 'arrangement' | 'wires'>): string =>
  `${c.arrangement.split('_')[0]}, ${c.wires}-wire`

export const circuitWords = (c: Pick<Channel, 'arrangement' | 'wires'>): string =>
  `${ARRANGEMENTS[c.arrangement] ?? c.arrangement}, ${c.wires}-wire`
