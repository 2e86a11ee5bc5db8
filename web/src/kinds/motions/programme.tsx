import { EditableNumber } from '../../ui/Editable'
import type { FieldsProps, Form, Motion } from '../form'
import { LEGS } from '../legs'
import { SpecList } from '../SpecList'

type Programme = Extract<Motion, { kind?: 'programme' }>

function ProgrammeFields({ spec, channels, disabled, onSave }: FieldsProps<Programme>) {
  return (
    <>
      <SpecList
        items={spec.legs}
        forms={LEGS}
        channels={channels}
        disabled={disabled}
        addLabel="One leg more"
        ordered
        onSave={(legs) => onSave({ ...spec, legs })}
      />
      <EditableNumber
        label="A gentle end goes to no load at"
        value={spec.unload_n_s ?? 200}
        unit="N/s"
        decimals={0}
        disabled={disabled}
        onSave={(unload_n_s) => onSave({ ...spec, unload_n_s })}
      />
    </>
  )
}

export const programme: Form<Programme> = {
  label: 'Programme of legs',
  start: 'Start the programme',
  fields: [],
  seed: () => ({
    kind: 'programme',
    legs: [
      { kind: 'to_force', force_n: 1000, rate_n_s: 200 },
      { kind: 'hold', seconds: 5 },
      { kind: 'to_force', force_n: 0, rate_n_s: 200 },
    ],
    unload_n_s: 200,
  }),
  Fields: ProgrammeFields,
}
