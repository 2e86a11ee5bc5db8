import { Choice } from '../../ui/Choice'
import { EditableNumber } from '../../ui/Editable'
import { fromSi, toSi } from '../../ui/units'
import type { FieldsProps, Form, Stop } from '../form'

type Limit = Extract<Stop, { kind?: 'limit' }>

function LimitFields({ spec: limit, channels, disabled, onSave }: FieldsProps<Limit>) {
  const channel = channels.find((c) => c.key === limit.channel)
  const unit = channel?.unit ?? ''
  const gone: [string, string][] = channel ? [] : [[limit.channel, 'no longer wired']]
  return (
    <>
      <Choice
        label="Channel"
        value={limit.channel}
        options={[...gone, ...channels.map((c) => [c.key, c.name] as const)]}
        disabled={disabled}
        onChoose={(key) => onSave({ ...limit, channel: key, lowest: null, highest: null })}
      />
      {(['lowest', 'highest'] as const).map((end) => (
        <EditableNumber
          key={end}
          label={end === 'lowest' ? 'Not below' : 'Not above'}
          value={limit[end] == null ? null : fromSi(limit[end], unit)}
          unit={unit}
          decimals={channel?.decimals ?? 3}
          disabled={disabled}
          onSave={(v) => onSave({ ...limit, [end]: toSi(v, unit) })}
          onClear={() => onSave({ ...limit, [end]: null })}
        />
      ))}
    </>
  )
}

/** The first channel's to begin with. */
export const limit: Form<Limit> = {
  label: 'Limit of a channel',
  fields: [],
  several: true,
  seed: ([first]) =>
    first ? { kind: 'limit', channel: first.key, lowest: null, highest: null } : null,
  Fields: LimitFields,
}
