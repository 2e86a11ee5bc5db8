import { EditableNumber } from '../../../ui/Editable'
import { Fact, Section, Segments } from '../../../ui/Fact'
import { figure } from '../../../ui/format'
import { Icon } from '../../../ui/Icon'
import { attempt } from '../../../ui/notices'
import type { BridgeConditioning, FormProps } from '../input'
import { Supplied } from '../Supplied'

type Props = FormProps<'potentiometer' | 'inductive_half', BridgeConditioning> & {
  /** Coils about a core, in place of a wiper. */
  coils: boolean
}

/** A wiper or coils between excitation + and −: direct current, or a carrier. */
export function DividerForm(props: Props) {
  const { channel, coils, offers, disabled, rewire, set } = props
  const { wiring, conditioning } = channel
  return (
    <Section title={coils ? 'Inductive half bridge' : 'Potentiometer'}>
      <EditableNumber
        label="Resistance"
        value={wiring.resistance_ohm}
        decimals={0}
        unit="Ω"
        disabled={disabled}
        onSave={(resistance_ohm) => rewire({ ...wiring, resistance_ohm })}
      />
      <Supplied {...props} conditioning={conditioning} />
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
      {coils && !conditioning.carrier_hz && (
        <p className="flex gap-2 py-1 text-small leading-4 text-marking-ink">
          <Icon name="warn" size={14} /> Coils give nothing on direct current: excite them with the
          carrier.
        </p>
      )}
    </Section>
  )
}
