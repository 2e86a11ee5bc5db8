import type { Readable } from '../../readable'
import { Choice } from '../../ui/Choice'
import { EditableNumber } from '../../ui/Editable'
import { spanFromSi, spanToSi } from '../../ui/units'

interface Props {
  channels: readonly Readable[]
  channel: string
  gate: number | null
  disabled: boolean
  label: string
  gateLabel: string
  onSave: (fields: { channel?: string; gate?: number }) => Promise<unknown>
}

/** A channel, and how far in its unit it goes at least. */
export function LeadFields(props: Props) {
  const { channels, channel: key, gate, disabled, label, gateLabel, onSave } = props
  const channel = channels.find((c) => c.key === key)
  const unit = channel?.unit ?? ''
  const gone: [string, string][] = channel ? [] : [[key, 'no longer wired']]
  return (
    <>
      <Choice
        label={label}
        value={key}
        options={[...gone, ...channels.map((c) => [c.key, c.name] as const)]}
        disabled={disabled}
        onChoose={(chosen) => onSave({ channel: chosen })}
      />
      <EditableNumber
        label={gateLabel}
        value={gate === null ? null : spanFromSi(gate, unit)}
        unit={unit}
        decimals={channel?.decimals ?? 3}
        disabled={disabled}
        onSave={(value) => onSave({ gate: spanToSi(value, unit) })}
      />
    </>
  )
}
