import { type Form, type Stop } from '../form'

export const cyclesDone: Form<Extract<Stop, { kind?: 'cycles' }>> = {
  label: 'Cycles',
  fields: [{ name: 'cycles', label: 'After', unit: 'cycles', decimals: 0 }],
  seed: () => ({ kind: 'cycles', cycles: 1000 }),
}
