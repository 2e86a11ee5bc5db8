import type { Bench } from '../api/client'
import { figure } from '../ui/format'

export type Device = Bench['devices'][number]

const LINK: Record<string, readonly [string, string]> = {
  linked: ['Linked', 'text-moss'],
  listening: ['Listening', 'text-marking-ink'],
}

/** How a device's link stands, in a word and its colour. */
export const linkWords = (device: Device): readonly [string, string] =>
  LINK[device.link] ?? ['Not linked', 'text-signal']

/** Where it answers: a host with its port, or a serial line, which has none. */
export const spokenAddress = (at: { host: string; port: number }): string =>
  at.host.startsWith('/dev/') ? at.host : `${at.host}:${at.port}`

/** How its clock runs against the bench's, and how often it was put; empty where nobody knows. */
export function clockWords({ drift_ppm, clock_steps, link }: Device): string {
  if (drift_ppm === null || link !== 'linked') return ''
  const put = clock_steps === 1 ? ', put once' : clock_steps ? `, put ${clock_steps} times` : ''
  return `${drift_ppm > 0 ? '+' : ''}${figure(drift_ppm, 1)} ppm${put}`
}
