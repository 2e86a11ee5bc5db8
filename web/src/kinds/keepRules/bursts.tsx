import { Choice } from '../../ui/Choice'
import { EditableNumber } from '../../ui/Editable'
import { figure } from '../../ui/format'
import type { FieldsProps, Form, KeepRule } from '../form'
import { LeadFields } from './LeadFields'
import { LegsField, legsSaid } from './legs'
import { gateOf } from './gate'

type Bursts = Extract<KeepRule, { kind?: 'bursts' }>

const UNITS = [
  ['seconds', 'seconds'],
  ['cycles', 'cycles'],
] as const
const SPACINGS = [
  ['even', 'evenly'],
  ['log', 'ever rarer'],
] as const
const PER_DECADE = 5

export const bursts: Form<Bursts> = {
  label: 'Bursts',
  fields: [],
  several: true,
  seed: () => ({ kind: 'bursts', unit: 'seconds', length: 2, every: 60, legs: [] }),
  says: ({ unit, length, every, per_decade, legs }) =>
    `${legsSaid(legs)}${figure(length, length % 1 ? 1 : 0)} ${unit === 'cycles' ? 'cycles' : 's'} ${
      per_decade
        ? `from ${figure(every, 0)} on, ${per_decade} in each tenfold`
        : `every ${figure(every, 0)}`
    }`,
  Fields: BurstFields,
}

function BurstFields({ spec, channels, disabled, onSave }: FieldsProps<Bursts>) {
  const put = (fields: Partial<Bursts>) => onSave({ ...spec, ...fields })
  const inCycles = spec.unit === 'cycles'
  const unit = inCycles ? 'cycles' : 's'
  const number = (label: string, name: 'length' | 'every') => (
    <EditableNumber
      label={label}
      value={spec[name]}
      unit={unit}
      decimals={spec[name] % 1 ? 2 : 0}
      disabled={disabled}
      onSave={(value) => put({ [name]: value })}
    />
  )
  return (
    <>
      <Choice
        label="Counted in"
        value={spec.unit ?? 'seconds'}
        options={UNITS}
        disabled={disabled}
        onChoose={(to) =>
          put({ unit: to as Bursts['unit'], ...(to === 'cycles' && lead(spec, channels)) })
        }
      />
      {number('Length', 'length')}
      {number('Every', 'every')}
      <Choice
        label="Spaced"
        value={spec.per_decade ? 'log' : 'even'}
        options={SPACINGS}
        disabled={disabled}
        onChoose={(to) => put({ per_decade: to === 'log' ? PER_DECADE : null })}
      />
      {spec.per_decade != null && (
        <EditableNumber
          label="In each tenfold"
          value={spec.per_decade}
          decimals={0}
          disabled={disabled}
          onSave={(per_decade) => put({ per_decade })}
        />
      )}
      {inCycles && spec.channel && (
        <LeadFields
          label="Cycles of"
          gateLabel="Each at least"
          channels={channels}
          channel={spec.channel}
          gate={spec.gate ?? null}
          disabled={disabled}
          onSave={put}
        />
      )}
      <LegsField legs={spec.legs ?? []} disabled={disabled} onSave={(legs) => put({ legs })} />
    </>
  )
}

const lead = (spec: Bursts, channels: FieldsProps<Bursts>['channels']) =>
  channels[0] && !spec.channel ? { channel: channels[0].key, gate: gateOf(channels[0]) } : {}
