import { useState } from 'react'

import { beginCalibration, type Loads, type Plan } from '../../../api/calibrations'
import type { Channel, Setup } from '../../../api/client'
import { loadsFor, loadsForm } from '../../../kinds/loads'
import { SpecFields } from '../../../kinds/SpecFields'
import { Button } from '../../../ui/Button'
import { Choice } from '../../../ui/Choice'
import { EditableText } from '../../../ui/Editable'
import { parseNumber } from '../../../ui/format'
import { attempt } from '../../../ui/notices'
import { Numbers } from '../../../ui/Numbers'
import { Toggle } from '../../../ui/Toggle'
import { fromSi, toSi } from '../../../ui/units'
import { fullScale } from '../../../readable'

const SHARES = [0.2, 0.4, 0.6, 0.8, 1]
const ORDERS = [['1', 'straight line'], ['2', 'order 2'], ['3', 'order 3']] as const // prettier-ignore

const listed = (text: string): number[] =>
  text.split(/[;\s]+/).flatMap((part) => {
    const value = part ? parseNumber(part) : null
    return value === null ? [] : [value]
  })

interface Props {
  setup: Setup
  channel: Channel
  onDone: () => void
}

/** What is to be put on, how often, and what curve is drawn through it. */
export function PlanForm({ setup, channel, onDone }: Props) {
  const reach = +fullScale(channel).toPrecision(2)
  const offered = loadsFor(channel, setup, SHARES.map((s) => s * reach)) // prettier-ignore
  const [plan, setPlan] = useState<Plan>(() => ({
    kind: 'calibration_plan',
    loads: offered[0]![2],
    rotations: [0, 0],
    falling: true,
    creep: false,
    preloads: 1,
    order: 1,
    through_zero: true,
    reference_drift: 0,
    temperature_coefficient: 0,
    temperature_k: 1,
  }))
  const put = (fields: object) => {
    setPlan({ ...plan, ...fields })
    return Promise.resolve()
  }
  const begin = async () => {
    if (await attempt(beginCalibration(channel.id, plan))) onDone()
  }
  return (
    <section
      aria-label="Plan of a calibration"
      className="@container flex min-h-0 flex-col border-t border-rule-strong bg-sheet"
    >
      <div className="bar">
        <h2>Calibrate {channel.name} against loads</h2>
        <span className="text-soft">
          {channel.sensor.name}, {channel.sensor.serial}
        </span>
      </div>
      <div className="grid min-h-0 content-start gap-x-10 gap-y-2 overflow-auto p-4 @2xl:grid-cols-3">
        <div>
          <h3 className="mb-1">Against</h3>
          <LoadsFields setup={setup} channel={channel} plan={plan} offered={offered} put={put} />
        </div>
        <div>
          <h3 className="mb-1">Series</h3>
          <EditableText
            label="Turned to, each series"
            unit="°"
            numeric
            value={plan.rotations.join('; ')}
            onSave={(text) => put({ rotations: listed(text) })}
          />
          <Numbers
            fields={[{ name: 'preloads', label: 'Preloads', decimals: 0 }]}
            values={plan}
            disabled={false}
            change={put}
          />
          <label className="flex min-h-8 items-center justify-between border-t border-rule text-small">
            <span className="text-soft">Also on the way down</span>
            <Toggle
              label="Falling loads"
              on={plan.falling}
              disabled={false}
              onChange={(falling) => void put({ falling })}
            />
          </label>
          <label className="flex min-h-8 items-center justify-between border-t border-rule text-small">
            <span className="text-soft">Creep test in the end, 5 min</span>
            <Toggle
              label="Creep test"
              on={plan.creep}
              disabled={false}
              onChange={(creep) => void put({ creep })}
            />
          </label>
        </div>
        <div>
          <h3 className="mb-1">Curve and conditions</h3>
          <Choice
            label="Curve"
            value={String(plan.order)}
            options={ORDERS}
            onChoose={(order) => put({ order: Number(order) })}
          />
          <label className="flex min-h-8 items-center justify-between border-t border-rule text-small">
            <span className="text-soft">Through zero</span>
            <Toggle
              label="Through zero"
              on={plan.through_zero}
              disabled={false}
              onChange={(through_zero) => void put({ through_zero })}
            />
          </label>
          <Numbers fields={CONDITIONS} values={plan} disabled={false} change={put} />
        </div>
      </div>
      <div className="mt-auto flex items-center gap-2 border-t border-rule px-4 py-2.5">
        <Button look="go" size={36} onClick={() => void begin()}>
          Begin the calibration
        </Button>
        <Button size={36} onClick={onDone}>
          Leave it
        </Button>
        <p className="ml-4 text-small leading-4 text-soft">
          Each load is captured by itself once it has been steady for 2 s. Nothing is in force
          before an engineer accepts it; an interrupted calibration waits here.
        </p>
      </div>
    </section>
  )
}

const CONDITIONS = [
  {
    name: 'reference_drift',
    label: 'Reference may have drifted',
    unit: '%',
    by: 0.01,
    decimals: 4,
  },
  { name: 'temperature_coefficient', label: 'Sensor, per K', unit: '%', by: 0.01, decimals: 4 },
  { name: 'temperature_k', label: 'Temperature within ±', unit: 'K', decimals: 1 },
]

function LoadsFields(props: {
  setup: Setup
  channel: Channel
  plan: Plan
  offered: ReturnType<typeof loadsFor>
  put: (fields: object) => Promise<void>
}) {
  const { setup, channel, plan, offered, put } = props
  const form = loadsForm(plan.loads.kind!)
  const { field, label, unit } = form.list(channel)
  const values = (plan.loads as unknown as Record<string, number[]>)[field]!
  const known = unit === channel.unit
  const shown = values.map((v) => +(known ? fromSi(v, unit) : v).toPrecision(6))
  const change = (fields: object) => put({ loads: { ...plan.loads, ...fields } as Loads })
  return (
    <>
      <Choice
        label="Loads by"
        value={plan.loads.kind!}
        options={offered.map(([kind, words]) => [kind, words] as const)}
        onChoose={(kind) => put({ loads: offered.find(([k]) => k === kind)![2] })}
      />
      <SpecFields
        fields={form.fields(channel)}
        choices={form.choices?.(channel, setup)}
        values={plan.loads}
        disabled={false}
        change={change}
      />
      <EditableText
        label={`${label}, ${unit}`}
        numeric
        value={shown.join('; ')}
        onSave={(text) => change({ [field]: listed(text).map((v) => (known ? toSi(v, unit) : v)) })}
      />
    </>
  )
}
