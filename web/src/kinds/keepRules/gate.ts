import { fullScale, type Readable } from '../../readable'

/** How far a channel goes at least in a cycle, to begin with: a twentieth of what it takes. */
export const gateOf = (channel: Readable): number =>
  (channel.measured ? fullScale(channel.measured) : 1) / 20
