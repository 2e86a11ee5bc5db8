import { useState } from 'react'

import { correctByShunt, externalShuntCheck, shuntCheck } from '../../api/actions'
import type { Channel, Schemas } from '../../api/client'
import { useMay } from '../../api/queries'
import type { Waiting } from '../../frame/yokeFirst'
import { Button } from '../../ui/Button'
import { Choice } from '../../ui/Choice'
import { EditableNumber } from '../../ui/Editable'
import { Fact, Section } from '../../ui/Fact'
import { clock, figure } from '../../ui/format'

interface Props {
  channel: Channel
  setupId: number
  waits?: Waiting
}

type Resistor = Schemas['ShuntResistor']

/** The newest shunt check with its verdict, a new one, and the span put right by it. */
export function ShuntPanel({ channel: c, setupId, waits }: Props) {
  const mayScale = useMay('change scaling')
  const [external, choose] = useState(false)
  const check = c.shunt_check
  return (
    <Section title="Shunt check">
      <Fact name="Due">
        <span className="figure">{figure(c.shunt_expected_mv_v, 4)}</span> mV/V
      </Fact>
      <Fact name="Read">
        <span className="figure">{figure(c.shunt_measured_mv_v, 4)}</span> mV/V
      </Fact>
      <Fact name="Off by">
        <b
          className={`figure font-strong ${!check ? '' : check.passed ? 'text-moss' : 'text-marking-ink'}`}
        >
          {figure(check ? check.deviation * 100 : null, 2)}
        </b>{' '}
        %
      </Fact>
      <p className="py-1.5 text-small leading-4 text-soft">
        {check && c.shunt_at ? (
          <>
            <b className={`font-strong ${check.passed ? 'text-moss' : 'text-marking-ink'}`}>
              {check.passed ? 'Passed' : 'Not passed'}, {check.verdict}.
            </b>{' '}
            Checked {clock(c.shunt_at)} with {check.by}.
          </>
        ) : (
          'Not checked yet.'
        )}
      </p>
      <Choice
        label="Resistor"
        value={external ? 'external' : 'own'}
        options={[
          ['own', "Amplifier's own, across arm 2"],
          ['external', 'One that I put on'],
        ]}
        onChoose={async (to) => choose(to === 'external')}
      />
      {external ? (
        <External channel={c} setupId={setupId} waits={waits} />
      ) : (
        <Button {...waits} onClick={() => void shuntCheck(setupId, [c.id])}>
          Shunt check {c.name}
        </Button>
      )}
      {check?.corrects && mayScale && (
        <div className="pt-2">
          <Button onClick={() => void correctByShunt(c.id)}>Correct the span by it</Button>
        </div>
      )}
    </Section>
  )
}

/** A resistor that a person puts on: what it changes since the zero is read. */
function External({ channel: c, setupId, waits }: Props) {
  const [resistor, set] = useState<Resistor>({
    resistance_ohm: 100e3,
    arm: 1,
    at_sensor: true,
    own: false,
  })
  const zeroed = c.zero !== null
  return (
    <>
      <EditableNumber
        label="Resistance"
        unit="kΩ"
        decimals={3}
        value={resistor.resistance_ohm / 1e3}
        onSave={async (value) => set({ ...resistor, resistance_ohm: value * 1e3 })}
      />
      <Choice
        label="Across arm"
        value={String(resistor.arm)}
        options={[1, 2, 3, 4].map((n) => [String(n), String(n)] as const)}
        onChoose={async (to) => set({ ...resistor, arm: Number(to) as Resistor['arm'] })}
      />
      <Choice
        label="Put on"
        value={resistor.at_sensor ? 'sensor' : 'amplifier'}
        options={[
          ['sensor', 'At the sensor'],
          ['amplifier', 'At the amplifier'],
        ]}
        onChoose={async (to) => set({ ...resistor, at_sensor: to === 'sensor' })}
      />
      <p className="py-1 text-small leading-4 text-soft">
        {zeroed
          ? 'Put it on, then read: it counts from the zero.'
          : `Zero ${c.name} without it first; then put it on.`}
      </p>
      <Button
        {...(zeroed ? waits : { waits: `Zero ${c.name} first` })}
        onClick={() => void externalShuntCheck(setupId, [c.id], resistor)}
      >
        Read {c.name} with it on
      </Button>
    </>
  )
}
