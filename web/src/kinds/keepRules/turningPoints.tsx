import { EditableNumber } from '../../ui/Editable'
import { figure } from '../../ui/format'
import type { FieldsProps, Form, KeepRule } from '../form'
import { gateOf } from './gate'
import { LeadFields } from './LeadFields'
import { LegsField, legsSaid } from './legs'

type TurningPoints = Extract<KeepRule, { kind?: 'turning_points' }>

export const turningPoints: Form<TurningPoints> = {
  label: 'Turning points',
  fields: [],
  several: true,
  cyclesOf: ({ channel, every }) => ({ channel, every: every ?? 1 }),
  seed: ([first]) =>
    first
      ? { kind: 'turning_points', channel: first.key, gate: gateOf(first), every: 1, legs: [] }
      : null,
  says: ({ channel, every, legs }, channels) => {
    const of = channels.find((c) => c.key === channel)?.name ?? 'a channel that is gone'
    const which = every && every > 1 ? `one cycle of ${figure(every, 0)}` : 'each cycle'
    return `${legsSaid(legs)}${which} of ${of}`
  },
  Fields: ({ spec, channels, disabled, onSave }: FieldsProps<TurningPoints>) => {
    const put = (fields: Partial<TurningPoints>) => onSave({ ...spec, ...fields })
    return (
      <>
        <LeadFields
          label="Cycles of"
          gateLabel="Each at least"
          channels={channels}
          channel={spec.channel}
          gate={spec.gate}
          disabled={disabled}
          onSave={put}
        />
        <EditableNumber
          label="One cycle of"
          value={spec.every ?? 1}
          decimals={0}
          disabled={disabled}
          onSave={(every) => put({ every })}
        />
        <LegsField legs={spec.legs ?? []} disabled={disabled} onSave={(legs) => put({ legs })} />
      </>
    )
  },
}
