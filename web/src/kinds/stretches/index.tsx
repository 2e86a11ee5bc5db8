import type { Run } from '../../api/client'
import type { Parameters } from '../results/kind'
import type { Form, Forms } from '../form'
import { SpecForm } from '../SpecForm'
import { readableInRun } from './inRun'
import { rising } from './rising'

export type Stretch = NonNullable<Parameters<'statistics'>['stretch']>

const whole: Form<Extract<Stretch, { kind?: 'whole' }>> = {
  label: 'the whole run',
  fields: [],
  seed: () => ({ kind: 'whole' }),
}
const between: Form<Extract<Stretch, { kind?: 'between' }>> = {
  label: 'between times',
  fields: [
    { name: 'from_s', label: 'From', unit: 's', decimals: 3 },
    { name: 'to_s', label: 'To', unit: 's', decimals: 3 },
  ],
  seed: () => ({ kind: 'between', from_s: 0, to_s: 1 }),
}

const WHOLE: Stretch = { kind: 'whole' }

/** Which part of a run something is computed over; a new kind adds a line here. */
const STRETCHES: Forms<Stretch> = { whole, between, rising }

export function StretchForm(props: {
  run: Run
  stretch: Stretch | undefined
  disabled: boolean
  change: (to: { stretch: Stretch }) => Promise<unknown>
}) {
  const { run, stretch, disabled, change } = props
  return (
    <SpecForm
      label="Over"
      forms={STRETCHES}
      spec={stretch ?? WHOLE}
      channels={readableInRun(run)}
      disabled={disabled}
      onSave={(to) => change({ stretch: to })}
    />
  )
}
