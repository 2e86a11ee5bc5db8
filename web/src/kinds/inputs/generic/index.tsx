import { Fact, Section } from '../../../ui/Fact'
import type { FormProps, InputKind } from '../input'

/** A wiring with nothing to set. */
export const PlainForm = ({ channel }: FormProps) => (
  <Section title="Connection">
    <Fact name="Measures">{channel.connection}</Fact>
  </Section>
)

/** A kind without a drawing of its own. */
export const generic: InputKind = {
  Drawing: ({ channel }) => (
    <p className="p-8 text-soft">
      {channel.signal === 'value'
        ? 'The device gives this quantity as a number.'
        : `Connected as: ${channel.connection}.`}
    </p>
  ),
  Form: PlainForm,
}
