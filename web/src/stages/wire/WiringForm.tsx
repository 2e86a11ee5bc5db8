import { useQuery } from '@tanstack/react-query'
import type { ReactNode } from 'react'

import type { Channel, Schemas } from '../../api/client'
import { changeChannel } from '../../api/actions'
import { driversQuery } from '../../api/queries'
import { Choice } from '../../ui/Choice'
import { EditableNumber } from '../../ui/Editable'
import { Fact, Section, Segments } from '../../ui/Fact'
import { figure } from '../../ui/format'
import { Icon } from '../../ui/Icon'
import { attempt } from '../../ui/notices'
import { circuitWords } from './words'

type Wiring = Channel['wiring']
type Conditioning = Channel['conditioning']

/** What the channel's device can be set to. */
type Offers = Pick<Schemas['DriverOut'], 'excitations_v' | 'ranges_mv_v' | 'carriers_hz'>

interface Props<W, C = Conditioning> {
  channel: Channel
  wiring: W
  conditioning: C
  offers: Offers
  disabled: boolean
  rewire: (wiring: W) => Promise<void>
  set: (conditioning: C) => Promise<void>
}
type Of<K extends Wiring['kind']> = Extract<Wiring, { kind: K }>
type BridgeConditioning = Extract<Conditioning, { kind: 'bridge' }>

interface OneOfProps {
  label: string
  unit: string
  choices: readonly number[]
  value: number
  disabled: boolean
  onChoose: (value: number) => Promise<void>
}

/** One of the figures that a device offers. */
const OneOf = ({ label, unit, choices, value, disabled, onChoose }: OneOfProps) => (
  <Fact name={`${label}, ${unit}`}>
    <Segments
      label={label}
      options={choices.map((c) => [`${c}`, `${c}`] as const)}
      value={`${value}`}
      disabled={disabled}
      onChange={(v) => void attempt(onChoose(Number(v)))}
    />
  </Fact>
)

type Ground = NonNullable<Of<'bridge'>['ground']>
const GROUNDS = Object.keys({
  aluminium: true,
  steel: true,
  'stainless steel': true,
  titanium: true,
  'fibre composite': true,
  plastic: true,
} satisfies Record<Ground, true>) as Ground[]
const BONDED_TO: [Ground | '', string][] = [
  ['', 'not told'],
  ...GROUNDS.map((g) => [g, g] as [Ground, string]),
]

const TOO_WARM = 'No excitation here is low enough: take a gauge of more resistance.'

/** Whether a grid gets too warm, and what to excite it with instead. */
function Heating(props: {
  heating: NonNullable<Channel['heating']>
  ground: Of<'bridge'>['ground']
}) {
  const { density_w_m2, carries_w_m2, well, best_v } = props.heating
  const kilo = (w: number) => figure(w / 1000, w < 100 ? 3 : w < 1000 ? 2 : 1)
  const warm = well === false
  return (
    <div
      className={`flex gap-2 py-1 text-small leading-4 ${warm ? 'text-marking-ink' : 'text-soft'}`}
    >
      {well != null && <Icon name={warm ? 'warn' : 'tick'} size={14} />}
      <p>
        Self-heating <span className="figure">{kilo(density_w_m2)}</span> kW/m² on this grid
        {carries_w_m2 != null && (
          <>
            ; {props.ground} carries <span className="figure">{kilo(carries_w_m2)}</span>
          </>
        )}
        .{warm && ` ${best_v ? `Excite it with ${best_v} V.` : TOO_WARM}`}
        {carries_w_m2 == null && ' Say what it is bonded to.'}
      </p>
    </div>
  )
}

type SuppliedProps = Pick<
  Props<Wiring, BridgeConditioning>,
  'conditioning' | 'offers' | 'disabled' | 'set'
>

/** What an amplifier excites with and how far it measures; between the two what comes of it. */
function Supplied(props: SuppliedProps & { children?: ReactNode }) {
  const { conditioning, offers, disabled, set, children } = props
  return (
    <>
      <OneOf
        label="Excitation"
        unit="V"
        choices={offers.excitations_v}
        value={conditioning.excitation_v}
        disabled={disabled}
        onChoose={(excitation_v) => set({ ...conditioning, excitation_v })}
      />
      {children}
      <OneOf
        label="Range"
        unit="±mV/V"
        choices={offers.ranges_mv_v}
        value={conditioning.range_mv_v}
        disabled={disabled}
        onChoose={(range_mv_v) => set({ ...conditioning, range_mv_v })}
      />
    </>
  )
}

function BridgeForm(props: Props<Of<'bridge'>, BridgeConditioning>) {
  const { channel, wiring, disabled, rewire } = props
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
      <Supplied {...props}>
        {channel.heating && <Heating heating={channel.heating} ground={wiring.ground} />}
      </Supplied>
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
      {channel.scaling.kind === 'gauge' && (
        <>
          <EditableNumber
            label="Area of a grid"
            value={wiring.grid_area_m2 ? wiring.grid_area_m2 * 1e6 : null}
            decimals={1}
            unit="mm²"
            disabled={disabled}
            onSave={(mm2) => rewire({ ...wiring, grid_area_m2: mm2 * 1e-6 })}
          />
          <Choice
            label="Bonded to"
            value={wiring.ground ?? ''}
            options={BONDED_TO}
            disabled={disabled}
            onChoose={(ground) => rewire({ ...wiring, ground: ground || null })}
          />
        </>
      )}
    </Section>
  )
}

type Tapped = Of<'potentiometer'> | Of<'inductive_half'>

/** A wiper or coils between excitation + and −: direct current, or a carrier. */
function TappedForm(props: Props<Tapped, BridgeConditioning>) {
  const { wiring, conditioning, offers, disabled, rewire, set } = props
  return (
    <Section title={wiring.kind === 'potentiometer' ? 'Potentiometer' : 'Inductive half bridge'}>
      <EditableNumber
        label="Resistance"
        value={wiring.resistance_ohm}
        decimals={0}
        unit="Ω"
        disabled={disabled}
        onSave={(resistance_ohm) => rewire({ ...wiring, resistance_ohm })}
      />
      <Supplied {...props} />
      <Fact name="Excited with">
        <Segments
          label="Carrier"
          options={offers.carriers_hz.map(
            (hz) => [`${hz}`, hz ? `${figure(hz / 1000, 1)} kHz` : 'DC'] as const,
          )}
          value={`${conditioning.carrier_hz}`}
          disabled={disabled}
          onChange={(v) => void attempt(set({ ...conditioning, carrier_hz: Number(v) }))}
        />
      </Fact>
      {wiring.kind === 'inductive_half' && !conditioning.carrier_hz && (
        <p className="flex gap-2 py-1 text-small leading-4 text-marking-ink">
          <Icon name="warn" size={14} /> Coils give nothing on direct current: excite them with the
          carrier.
        </p>
      )}
    </Section>
  )
}

function LoopForm({ wiring, disabled, rewire }: Props<Of<'loop'>>) {
  return (
    <Section title="Loop">
      <Fact name="Transmitter">
        {wiring.wires === 3
          ? 'three cores, a supply of its own'
          : 'two cores, the loop supplies it'}
      </Fact>
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
  potentiometer: TappedForm,
  inductive_half: TappedForm,
  pulses: PlainForm,
  loop: LoopForm,
  voltage: PlainForm,
  thermometer: PlainForm,
  digital: PlainForm,
}

const NOTHING: Offers = { excitations_v: [], ranges_mv_v: [], carriers_hz: [] }

interface WiringFormProps {
  channel: Channel
  driver: string
  disabled: boolean
}

export function WiringForm({ channel, driver, disabled }: WiringFormProps) {
  const drivers = useQuery(driversQuery).data
  const Form = FORMS[channel.wiring.kind] as (props: Props<Wiring>) => ReactNode
  return (
    <Form
      channel={channel}
      wiring={channel.wiring}
      conditioning={channel.conditioning}
      offers={drivers?.find((d) => d.name === driver) ?? NOTHING}
      disabled={disabled}
      rewire={(wiring) => changeChannel(channel.id, { wiring })}
      set={(conditioning) => changeChannel(channel.id, { conditioning })}
    />
  )
}
