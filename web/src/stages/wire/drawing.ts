import type { Bench, Channel } from '../../api/client'

export interface DrawingProps {
  channel: Channel
  device: Bench['devices'][number]
}

/** A 4-20 mA loop: beyond its limits (NAMUR NE 43) the transmitter tells of a fault. */
export const LOOP = {
  least: 3.6e-3,
  most: 21e-3,
  percent: (current: number): number => ((current - 4e-3) / 16e-3) * 100,
}
