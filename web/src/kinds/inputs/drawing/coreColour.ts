import type { Channel } from '../../../api/client'

/** The colour of the core on a pin, by the sensor's table. */
export const coreColour = (channel: Channel, pin: number): string =>
  channel.sensor.cores.find((c) => c.pin === pin)?.colour ?? 'grey'
