import type { Form, Leg } from '../form'

export const repeat: Form<Extract<Leg, { kind?: 'repeat' }>> = {
  label: 'Repeat',
  fields: [
    { name: 'first', label: 'All from leg', decimals: 0 },
    { name: 'times', label: 'Times', decimals: 0 },
  ],
  several: true,
  seed: () => ({ kind: 'repeat', first: 1, times: 2 }),
}
