import { Choice } from '../../ui/Choice'
import { EditableNumber } from '../../ui/Editable'
import { figure } from '../../ui/format'
import { spanFromSi } from '../../ui/units'
import type { FieldsProps, Form, KeepRule } from '../form'
import { gateOf } from './gate'
import { LeadFields } from './LeadFields'
import { LegsField, legsSaid } from './legs'

type Changes = Extract<KeepRule, { kind?: 'changes' }>

export const changes: Form<Changes> = {
  label: 'Changes',
  fields: [],
  several: true,
  seed: ([first]) =>
    first
      ? {
          kind: 'changes',
          steps: [{ channel: first.key, step: gateOf(first) }],
          longest_s: 60,
          legs: [],
        }
      : null,
  says: ({ steps, legs }, channels) =>
    legsSaid(legs) +
    steps
      .map(({ channel, step }) => {
        const of = channels.find((c) => c.key === channel)
        if (!of) return 'a channel that is gone'
        return `${of.name} by ${figure(spanFromSi(step, of.unit), of.decimals)} ${of.unit}`
      })
      .join(', '),
  Fields: ({ spec, channels, disabled, onSave }: FieldsProps<Changes>) => {
    const put = (fields: Partial<Changes>) => onSave({ ...spec, ...fields })
    const free = channels.filter((c) => !spec.steps.some((s) => s.channel === c.key))
    return (
      <>
        {spec.steps.map((one, at) => (
          <LeadFields
            key={at}
            label={at ? 'Or' : 'When'}
            gateLabel="Moves by"
            channels={channels}
            channel={one.channel}
            gate={one.step}
            disabled={disabled}
            onSave={({ channel = one.channel, gate = one.step }) =>
              put({ steps: spec.steps.map((s, i) => (i === at ? { channel, step: gate } : s)) })
            }
          />
        ))}
        {!disabled && free.length > 0 && (
          <Choice
            label="Or also"
            value=""
            options={[['', 'choose…'], ...free.map((c) => [c.key, c.name] as const)]}
            onChoose={(key) => {
              const chosen = free.find((c) => c.key === key)
              if (!chosen) return Promise.resolve()
              return put({ steps: [...spec.steps, { channel: key, step: gateOf(chosen) }] })
            }}
          />
        )}
        <EditableNumber
          label="At the latest after"
          value={spec.longest_s ?? 60}
          unit="s"
          decimals={0}
          disabled={disabled}
          onSave={(longest_s) => put({ longest_s })}
        />
        <LegsField legs={spec.legs ?? []} disabled={disabled} onSave={(legs) => put({ legs })} />
      </>
    )
  },
}
