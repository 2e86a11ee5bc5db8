import type { ReactNode } from 'react'

import type { Channel } from '../../api/client'
import { changeChannel } from '../../api/deeds'
import { EditableNumber } from '../../ui/Editable'
import { Fact, Section, Segments } from '../../ui/Fact'
import { figure } from '../../ui/format'
import { attempt } from '../../ui/notices'
import { circuitWords } from './words'

type Wiring = Channel['wiring']
type Conditioning = Channel['conditioning']

interface Props<W, C = Conditioning> {
  wiring: W
  conditioning: C
  disabled: boolean
  rewire: (wiring: W) => Promise<void>
  set: (conditioning: C) => Promise<void>
}
type Of<K extends Wiring['kind']> = Extract<Wiring, { kind: K }>
type BridgeConditioning = Extract<Conditioning, { kind: 'bridge' }>

const EXCITATIONS = ['1', '2.5', '5'] as const
const RANGES = ['2', '8', '40'] as const

function BridgeForm(props: Props<Of<'bridge'>, BridgeConditioning>) {
  const { wiring, conditioning, disabled, rewire, set } = props
  return (
    <Section title="Bridge">
      <Fact name="Circuit">{circuitWords(wiring)}</Fact>
      <EditableNumber
        label="Resistance"
        value={wiring.resistance_ohm}
        decimals={1}
        unit="Ω"
        disabled={disabled}
        onSave={(resistance_ohm) => rewire({ ...wiring, resistance_ohm })}
      />
      <Fact name="Excitation, V">
        <Segments
          label="Excitation"
          options={EXCITATIONS.map((v) => [v, v] as const)}
          value={`${conditioning.excitation_v}` as (typeof EXCITATIONS)[number]}
          disabled={disabled}
          onChange={(v) => void attempt(set({ ...conditioning, excitation_v: Number(v) }))}
        />
      </Fact>
      <Fact name="Range, ±mV/V">
        <Segments
          label="Range"
          options={RANGES.map((v) => [v, v] as const)}
          value={`${conditioning.range_mv_v}` as (typeof RANGES)[number]}
          disabled={disabled}
          onChange={(v) => void attempt(set({ ...conditioning, range_mv_v: Number(v) }))}
        />
      </Fact>
      <EditableNumber
        label="Lead length"
        value={wiring.lead_length_m}
        decimals={2}
        unit="m"
        disabled={disabled}
        onSave={(lead_length_m) => rewire({ ...wiring, lead_length_m })}
      />
      <Fact name="Lead, one core">
        <span className="figure">{figure(wiring.lead_length_m * wiring.lead_ohm_per_m, 2)}</span> Ω
      </Fact>
    </Section>
  )
}

function LoopForm({ wiring, disabled, rewire }: Props<Of<'loop'>>) {
  return (
    <Section title="Loop">
      <EditableNumber
        label="Precision resistor"
        value={wiring.resistor_ohm}
        decimals={2}
        unit="Ω"
        disabled={disabled}
        onSave={(resistor_ohm) => rewire({ ...wiring, resistor_ohm })}
      />
    </Section>
  )
}

const PlainForm = ({ wiring }: Props<Wiring>) => (
  <Section title="Connection">
    <Fact name="Measures">{circuitWords(wiring)}</Fact>
  </Section>
)

/** The form of each kind of wiring. */
const FORMS: Record<Wiring['kind'], (props: never) => ReactNode> = {
  bridge: BridgeForm,
  loop: LoopForm,
  voltage: PlainForm,
  thermometer: PlainForm,
  digital: PlainForm,
}

export function WiringForm({ channel, disabled }: { channel: Channel; disabled: boolean }) {
  const Form = FORMS[channel.wiring.kind] as (props: Props<Wiring>) => ReactNode
  return (
    <Form
      wiring={channel.wiring}
      conditioning={channel.conditioning}
      disabled={disabled}
      rewire={(wiring) => changeChannel(channel.id, { wiring })}
      set={(conditioning) => changeChannel(channel.id, { conditioning })}
    />
  )
}
