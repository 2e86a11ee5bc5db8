import type { ClipboardEvent } from 'react'

import { changeScaling } from '../../../api/actions'
import { EditableNumber } from '../../../ui/Editable'
import { Icon } from '../../../ui/Icon'
import { attempt } from '../../../ui/notices'
import { fromSi, signalUnit, toSi } from '../../../ui/units'
import { pointsOf, type TableScaling } from '../points'
import type { FormProps } from '../scaling'

/** Points of rising signal, a row each; a table copied from elsewhere may be pasted in. */
export function TableForm({ channel, scaling, disabled }: FormProps<'table'>) {
  const { points } = scaling
  const signal = signalUnit(channel.signal)
  const save = (next: TableScaling['points']) =>
    changeScaling(channel.id, { scaling: { ...scaling, points: next } })
  const put = (at: number, change: Partial<TableScaling['points'][number]>) =>
    save(points.map((p, i) => (i === at ? { ...p, ...change } : p)))
  const add = () => {
    const [before, last] = [points.at(-2)!, points.at(-1)!]
    return save([
      ...points,
      { signal: 2 * last.signal - before.signal, value: 2 * last.value - before.value },
    ])
  }
  const paste = (event: ClipboardEvent) => {
    const found = pointsOf(event.clipboardData.getData('text'), signal, channel.unit)
    if (!found) return
    event.preventDefault()
    void attempt(save(found))
  }
  return (
    <div onPaste={disabled ? undefined : paste}>
      <div className="grid grid-cols-[28px_1fr_1fr_20px] gap-x-2 text-small text-soft">
        <span className="col-start-2 text-right">Signal, {signal}</span>
        <span className="text-right">
          {channel.quantity}, {channel.unit}
        </span>
      </div>
      {points.map((point, i) => (
        <div
          key={i}
          className="grid grid-cols-[28px_1fr_1fr_20px] items-center gap-x-2 border-t border-rule"
        >
          <span className="figure text-note text-soft">{i + 1}</span>
          <EditableNumber
            hideLabel
            label={`Point ${i + 1}, signal`}
            decimals={4}
            disabled={disabled}
            value={fromSi(point.signal, signal)}
            onSave={(v) => put(i, { signal: toSi(v, signal) })}
          />
          <EditableNumber
            hideLabel
            label={`Point ${i + 1}, value`}
            decimals={4}
            disabled={disabled}
            value={fromSi(point.value, channel.unit)}
            onSave={(v) => put(i, { value: toSi(v, channel.unit) })}
          />
          {!disabled && points.length > 2 && (
            <button
              type="button"
              aria-label={`Take out point ${i + 1}`}
              className="text-soft hover:text-ink"
              onClick={() => void attempt(save(points.filter((_, at) => at !== i)))}
            >
              <Icon name="cross" size={11} />
            </button>
          )}
        </div>
      ))}
      {!disabled && (
        <p className="flex items-center gap-3 border-t border-rule pt-1.5 text-small text-soft">
          <button
            type="button"
            className="text-petrol underline underline-offset-2"
            onClick={() => void attempt(add())}
          >
            Add a point
          </button>
          or paste two columns into a field
        </p>
      )}
    </div>
  )
}
