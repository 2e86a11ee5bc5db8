import { Choice } from '../../../ui/Choice'
import { EditableNumber } from '../../../ui/Editable'
import { Fact, Section } from '../../../ui/Fact'
import { figure } from '../../../ui/format'
import { isGauge } from '../../scalings/gauge'
import type { BridgeConditioning, FormProps } from '../input'
import { Supplied } from '../Supplied'
import { BONDED_TO } from './grounds'
import { Heating } from './Heating'

export function BridgeForm(props: FormProps<'bridge', BridgeConditioning>) {
  const { channel, disabled, rewire } = props
  const { wiring } = channel
  return (
    <Section title="Bridge">
      <Fact name="Circuit">{channel.connection}</Fact>
      <EditableNumber
        label="Resistance"
        value={wiring.resistance_ohm}
        decimals={1}
        unit="Ω"
        disabled={disabled}
        onSave={(resistance_ohm) => rewire({ ...wiring, resistance_ohm })}
      />
      <Supplied {...props} conditioning={channel.conditioning}>
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
      {isGauge(channel) && (
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
