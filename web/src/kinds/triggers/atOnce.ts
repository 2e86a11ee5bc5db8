import type { Form, Trigger } from '../form'

export const atOnce: Form<Extract<Trigger, { kind?: 'at_once' }>> = {
  label: 'At once',
  fields: [],
  seed: () => ({ kind: 'at_once' }),
}
