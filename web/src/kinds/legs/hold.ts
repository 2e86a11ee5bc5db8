import type { Form, Leg } from '../form'

export const hold: Form<Extract<Leg, { kind?: 'hold' }>> = {
  label: 'Hold',
  fields: [{ name: 'seconds', label: 'For', unit: 's', decimals: 1 }],
  several: true,
  seed: () => ({ kind: 'hold', seconds: 10 }),
}
