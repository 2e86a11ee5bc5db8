import type { FieldsProps, Form, Guard } from '../form'
import { ChannelFields } from './ChannelFields'

type NoSignal = Extract<Guard, { kind?: 'no_signal' }>

export const noSignal: Form<NoSignal> = {
  label: 'No signal',
  fields: [],
  several: true,
  seed: ([first]) =>
    first ? { kind: 'no_signal', channel: first.key, action: 'hold', debounce_s: 2 } : null,
  Fields: (props: FieldsProps<NoSignal>) => <ChannelFields {...props} figures={[]} moves={false} />,
}
