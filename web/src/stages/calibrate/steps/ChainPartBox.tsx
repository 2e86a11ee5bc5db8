import type { Channel } from '../../../api/client'
import type { ChainPart } from '../../../api/steps'
import { stepForm } from '../../../kinds/steps'
import { figure, significant } from '../../../ui/format'
import { fromSi, signalUnit } from '../../../ui/units'

interface Props {
  part: ChainPart
  channel: Channel
  chosen: boolean
  onChoose?: () => void
}

/** One part of the chain: its title, and what the reading is behind it. */
export function ChainPartBox({ part, channel, chosen, onChoose }: Props) {
  const { title, step, on, value, in_quantity, leads } = part
  const unit = in_quantity ? channel.unit : signalUnit(channel.signal)
  const set = step === null ? undefined : channel.steps[step]
  const shown = value === null ? null : fromSi(value, unit)
  const inside = (
    <>
      <span className={`block truncate text-small font-strong ${on ? '' : 'text-soft'}`}>
        {title} {on ? '' : 'off'}
      </span>
      <span className="figure block truncate text-note text-soft">
        {set
          ? stepForm(set.kind!)?.says(set as never)
          : leads && onChoose
            ? `press to switch ${on ? 'off' : 'on'}`
            : ' '}
      </span>
      <span className="block whitespace-nowrap">
        <span className={`figure text-lead font-number ${on ? '' : 'text-soft'}`}>
          {shown === null
            ? '–'
            : in_quantity
              ? figure(shown, channel.decimals)
              : significant(shown)}
        </span>{' '}
        <span className="text-small text-soft">{unit}</span>
      </span>
    </>
  )
  const look = `min-w-28 flex-none border-r border-b border-rule px-3 py-1.5 text-left ${
    chosen ? 'bg-marking-wash shadow-chosen-above' : ''
  } ${on ? '' : 'border-dashed'}`
  return (
    <li className="contents">
      {onChoose ? (
        <button
          type="button"
          aria-pressed={leads ? on : chosen}
          onClick={onChoose}
          className={look}
        >
          {inside}
        </button>
      ) : (
        <span className={look}>{inside}</span>
      )}
    </li>
  )
}
