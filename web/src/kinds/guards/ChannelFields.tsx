import { Choice } from '../../ui/Choice'
import { EditableNumber } from '../../ui/Editable'
import { fromSi, spanFromSi, spanToSi, toSi } from '../../ui/units'
import type { FieldsProps, Guard } from '../form'

const ACTIONS = [
  ['hold', 'holds'],
  ['unload', 'goes to no load'],
  ['stop', 'ends the run'],
  ['warn', 'warns'],
] as const

/** A figure of a guard in the unit of its channel. */
export interface GuardFigure<G> {
  name: keyof G & string
  label: string
  /** Of a change rather than of a reading: an offset of the unit does not count. */
  span?: boolean
  /** What follows the channel's unit. */
  per?: string
}

/** Which channel, its figures in its unit, for how long, and what happens then. */
export function ChannelFields<G extends Guard>(
  props: FieldsProps<G> & { figures: readonly GuardFigure<G>[]; moves?: boolean },
) {
  const { spec, channels, disabled, onSave, figures, moves = true } = props
  const channel = channels.find((c) => c.key === spec.channel)
  const unit = channel?.unit ?? ''
  const gone: [string, string][] = channel ? [] : [[spec.channel, 'no longer wired']]
  const known = spec as unknown as Record<string, number | null | undefined>
  const put = (fields: object) => onSave({ ...spec, ...fields })
  return (
    <>
      <Choice
        label="Channel"
        value={spec.channel}
        options={[...gone, ...channels.map((c) => [c.key, c.name] as const)]}
        disabled={disabled}
        onChoose={(key) => put({ channel: key })}
      />
      {figures.map(({ name, label, span, per = '' }) => {
        const value = known[name]
        return (
          <EditableNumber
            key={name}
            label={label}
            value={value == null ? null : span ? spanFromSi(value, unit) : fromSi(value, unit)}
            unit={unit + per}
            decimals={channel?.decimals ?? 3}
            disabled={disabled}
            onSave={(v) => put({ [name]: span ? spanToSi(v, unit) : toSi(v, unit) })}
            onClear={span ? undefined : () => put({ [name]: null })}
          />
        )
      })}
      <EditableNumber
        label="For"
        value={(spec.debounce_s ?? 0) * 1e3}
        unit="ms"
        decimals={0}
        disabled={disabled}
        onSave={(ms) => put({ debounce_s: ms / 1e3 })}
      />
      <Choice
        label="Then it"
        value={spec.action ?? 'hold'}
        options={ACTIONS.filter(([action]) => moves || action !== 'unload')}
        disabled={disabled}
        onChoose={(action) => put({ action })}
      />
    </>
  )
}
