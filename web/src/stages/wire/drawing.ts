import type { Bench, Channel } from '../../api/client'

export interface DrawingProps {
  channel: Channel
  device: Bench['devices'][number]
}

/** The colour of the core on a pin, by the sensor's table. */
export const coreColour = (channel: Channel, pin: number): string =>
  channel.sensor.cores.find((c) => c.pin === pin)?.colour ?? 'grey'
