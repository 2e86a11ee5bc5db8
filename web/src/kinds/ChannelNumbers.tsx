import { Choice } from '../ui/Choice'
import { EditableNumber } from '../ui/Editable'
import { fromSi, spanFromSi, spanToSi, toSi } from '../ui/units'
import type { FieldsProps } from './form'

/** A figure in the unit of the channel that it is of. */
export interface ChannelFigure<S> {
  name: keyof S & string
  label: string
  /** Of a change rather than of a reading: an offset of the unit does not count. */
  span?: boolean
  /** What follows the channel's unit. */
  per?: string
  /** It may be left empty. */
  clears?: boolean
}

/** Which channel, and figures in its unit. */
export function ChannelNumbers<S extends { channel: string }>(
  props: FieldsProps<S> & {
    figures: readonly ChannelFigure<S>[]
    /** What else is set with another channel. */
    afresh?: Partial<S>
  },
) {
  const { spec, channels, disabled, onSave, figures, afresh } = props
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
        onChoose={(key) => put({ ...afresh, channel: key })}
      />
      {figures.map(({ name, label, span, per = '', clears }) => {
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
            onClear={clears ? () => put({ [name]: null }) : undefined}
          />
        )
      })}
    </>
  )
}
