import { fullScale } from '../../readable'
import type { FieldsProps, Form, Guard } from '../form'
import type { ChannelFigure } from '../ChannelNumbers'
import { ChannelFields } from './ChannelFields'

type Outside = Extract<Guard, { kind?: 'outside' }>

const FIGURES: readonly ChannelFigure<Outside>[] = [
  { name: 'lowest', label: 'Not below' },
  { name: 'highest', label: 'Not above' },
]

/** The first channel's, at what its input takes. */
export const outside: Form<Outside> = {
  label: 'Out of a range',
  fields: [],
  several: true,
  seed: ([first]) => {
    if (!first) return null
    const reach = first.measured ? fullScale(first.measured) : 1
    return {
      kind: 'outside',
      channel: first.key,
      lowest: -reach,
      highest: reach,
      action: 'hold',
      debounce_s: 0,
    }
  },
  Fields: (props: FieldsProps<Outside>) => <ChannelFields {...props} figures={FIGURES} />,
}
