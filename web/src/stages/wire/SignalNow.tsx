import type { Channel } from '../../api/client'
import { useReading } from '../../live/LiveProvider'
import { figure } from '../../ui/format'
import { fromSi, signalUnit } from '../../ui/units'

/** What an input reads now, in the unit of its signal. */
export function SignalNow({ channel }: { channel: Channel }) {
  const reading = useReading(channel.key)
  const unit = signalUnit(channel.signal)
  if (reading?.clipped) return <b className="font-strong text-signal">Clipped</b>
  return (
    <span>
      <span className="figure">{figure(reading && fromSi(reading.raw, unit), 4)}</span>{' '}
      <span className="text-small text-soft">{unit}</span>
    </span>
  )
}
