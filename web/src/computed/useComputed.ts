import type { Computed } from '../api/computed'
import { useBenchState, useReading } from '../live/LiveProvider'
import { figure } from '../ui/format'

/** A computed channel live: its reading, why there is none, and how a value of it is written. */
export function useComputed(channel: Computed) {
  const reading = useReading(channel.key)
  const fault = useBenchState()?.devices[channel.device_label]?.faults[channel.key]
  const show = (si: number) => figure((si - channel.offset) / channel.factor, channel.decimals)
  return { reading, problem: channel.problem || fault, show }
}
