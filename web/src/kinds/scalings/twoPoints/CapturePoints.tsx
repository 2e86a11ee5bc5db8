import { useHotkeys } from 'react-hotkeys-hook'

import { capturePoint } from '../../../api/actions'
import { PAGE_KEYS } from '../../../frame/pageKeys'
import { useReading } from '../../../live/LiveProvider'
import { Button } from '../../../ui/Button'
import { significant } from '../../../ui/format'
import { fromSi, signalUnit } from '../../../ui/units'
import type { FormProps } from '../scaling'

/** Each point captured while its value acts: type the value, put it on, press its key. */
export function CapturePoints({ channel: c, scaling, disabled }: FormProps<'two_points'>) {
  const reading = useReading(c.key)
  const unit = signalUnit(c.signal)
  const capture = (point: 1 | 2) => {
    if (!disabled) void capturePoint(c.id, point, point === 1 ? scaling.value_1 : scaling.value_2)
  }
  useHotkeys('a', () => capture(1), PAGE_KEYS)
  useHotkeys('b', () => capture(2), PAGE_KEYS)
  return (
    <div className="flex flex-col gap-2">
      <p className="text-small text-soft">
        Live{' '}
        <span className="figure text-lead text-ink">
          {reading && Number.isFinite(reading.raw) ? significant(fromSi(reading.raw, unit)) : '–'}
        </span>{' '}
        {unit} before its zero. Put a value on, then capture it.
      </p>
      <div className="flex gap-2">
        <Button size={36} shortcut="A" disabled={disabled} onClick={() => capture(1)}>
          Capture A
        </Button>
        <Button size={36} shortcut="B" disabled={disabled} onClick={() => capture(2)}>
          Capture B
        </Button>
      </div>
    </div>
  )
}
