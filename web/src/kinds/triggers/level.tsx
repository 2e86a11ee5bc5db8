import { fullScale } from '../../readable'
import { Choice } from '../../ui/Choice'
import { EditableNumber } from '../../ui/Editable'
import { fromSi, spanFromSi, spanToSi, toSi } from '../../ui/units'
import type { FieldsProps, Form, Trigger } from '../form'

type Level = Extract<Trigger, { kind?: 'level' }>

const WAYS = [
  ['up', 'rises above'],
  ['down', 'falls below'],
] as const
const SHARE = 0.05 // of what an input takes, to begin with

export const level: Form<Level> = {
  label: 'When a channel crosses a level',
  fields: [],
  seed: ([first]) => {
    if (!first) return null
    const step = (first.measured ? fullScale(first.measured) : 1) * SHARE
    return {
      kind: 'level',
      channel: first.key,
      level: step,
      rising: true,
      hysteresis: step / 5,
      before_s: 1,
    }
  },
  Fields: LevelFields,
}

function LevelFields({ spec, channels, disabled, onSave }: FieldsProps<Level>) {
  const channel = channels.find((c) => c.key === spec.channel)
  const unit = channel?.unit ?? ''
  const decimals = channel?.decimals ?? 3
  const put = (fields: Partial<Level>) => onSave({ ...spec, ...fields })
  const gone: [string, string][] = channel ? [] : [[spec.channel, 'no longer wired']]
  return (
    <>
      <Choice
        label="Channel"
        value={spec.channel}
        options={[...gone, ...channels.map((c) => [c.key, c.name] as const)]}
        disabled={disabled}
        onChoose={(key) => put({ channel: key })}
      />
      <Choice
        label="Which"
        value={spec.rising === false ? 'down' : 'up'}
        options={WAYS}
        disabled={disabled}
        onChoose={(way) => put({ rising: way === 'up' })}
      />
      <EditableNumber
        label="Level"
        value={fromSi(spec.level, unit)}
        unit={unit}
        decimals={decimals}
        disabled={disabled}
        onSave={(value) => put({ level: toSi(value, unit) })}
      />
      <EditableNumber
        label="From its other side by"
        value={spanFromSi(spec.hysteresis ?? 0, unit)}
        unit={unit}
        decimals={decimals}
        disabled={disabled}
        onSave={(value) => put({ hysteresis: spanToSi(value, unit) })}
      />
      <EditableNumber
        label="And before it"
        value={spec.before_s ?? 1}
        unit="s"
        decimals={1}
        disabled={disabled}
        onSave={(before_s) => put({ before_s })}
      />
    </>
  )
}
