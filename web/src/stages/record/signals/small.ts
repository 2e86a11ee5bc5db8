/** Small signals in figures that can be read: noise is thousandths of what a signal is. */

import type { Channel } from '../../../api/client'
import { significant } from '../../../ui/format'
import { signalUnit, spanFromSi } from '../../../ui/units'

const SMALLER: Record<string, string> = { 'mV/V': 'µV/V', V: 'mV', mA: 'µA', Ω: 'mΩ' }

/** A span of a channel's signal: figure and unit. */
export function smallSignal(channel: Channel, value: number | null): [string, string] {
  const unit = signalUnit(channel.signal)
  if (value === null) return ['–', unit]
  const span = Math.abs(spanFromSi(value, unit))
  const smaller = SMALLER[unit]
  return smaller ? [rounded(span * 1e3), smaller] : [rounded(span), unit]
}

/** Three figures that count. */
export const rounded = (value: number): string =>
  significant(Number(value.toPrecision(3)))
    .replace(/(\.\d*?)0+$/, '$1')
    .replace(/\.$/, '')

/** A span of its quantity, in the unit in which the channel is shown. */
export const span = (channel: Channel, value: number | null | undefined): string =>
  value == null ? '–' : rounded(Math.abs(spanFromSi(value, channel.unit)))
