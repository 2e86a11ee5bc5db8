import { type Form, type Stop } from '../form'

export const timeUp: Form<Extract<Stop, { kind?: 'time' }>> = {
  label: 'Time',
  fields: [{ name: 'seconds', label: 'After', unit: 's', decimals: 1 }],
  seed: () => ({ kind: 'time', seconds: 60 }),
}
