import { ChannelNumbers } from '../ChannelNumbers'
import type { FieldsProps, Form, Stop } from '../form'

type Limit = Extract<Stop, { kind?: 'limit' }>

const FIGURES = [
  { name: 'lowest', label: 'Not below', clears: true },
  { name: 'highest', label: 'Not above', clears: true },
] as const

/** The first channel's to begin with. */
export const limit: Form<Limit> = {
  label: 'Limit of a channel',
  fields: [],
  several: true,
  seed: ([first]) =>
    first ? { kind: 'limit', channel: first.key, lowest: null, highest: null } : null,
  Fields: (props: FieldsProps<Limit>) => (
    <ChannelNumbers {...props} figures={FIGURES} afresh={{ lowest: null, highest: null }} />
  ),
}
