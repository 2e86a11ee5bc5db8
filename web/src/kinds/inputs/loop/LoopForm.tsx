import { EditableNumber } from '../../../ui/Editable'
import { Fact, Section } from '../../../ui/Fact'
import type { FormProps } from '../input'

export function LoopForm({ channel: { wiring }, disabled, rewire }: FormProps<'loop'>) {
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
