import type { Channel } from '../../api/client'
import { signalUnit, spanFromSi } from '../../ui/units'

/** How far the shunt's step was off, in per cent; null while it was not checked. */
export const shuntError = (c: Channel): number | null =>
  c.shunt_check ? c.shunt_check.deviation * 100 : null

/** How far the zero went since the first one of the day, in the signal's unit; null without one. */
export const zeroDrift = (c: Channel): number | null =>
  c.zero == null || c.zero_of_today == null
    ? null
    : spanFromSi(c.zero - c.zero_of_today, signalUnit(c.signal))

/** So much more or less of the signal (SI) as the reading shows it, near rest. */
export const asReading = (c: Channel, signal: number): number =>
  spanFromSi(signal * Math.abs(c.per_signal), c.unit)

/** What one unit of the signal is worth, near rest, in the channel's unit. */
export const perSignal = (c: Channel): number =>
  spanFromSi(c.per_signal, c.unit) / spanFromSi(1, signalUnit(c.signal))
