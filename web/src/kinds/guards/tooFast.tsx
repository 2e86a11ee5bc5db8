import type { FieldsProps, Form, Guard } from '../form'
import type { ChannelFigure } from '../ChannelNumbers'
import { ChannelFields } from './ChannelFields'

type TooFast = Extract<Guard, { kind?: 'too_fast' }>

const FIGURES: readonly ChannelFigure<TooFast>[] = [
  { name: 'per_s', label: 'Faster than', span: true, per: '/s' },
]

export const tooFast: Form<TooFast> = {
  label: 'Changes too fast',
  fields: [],
  several: true,
  seed: ([first]) =>
    first
      ? {
          kind: 'too_fast',
          channel: first.key,
          per_s: 1000,
          over_s: 0.1,
          action: 'hold',
          debounce_s: 0,
        }
      : null,
  Fields: (props: FieldsProps<TooFast>) => <ChannelFields {...props} figures={FIGURES} />,
}
