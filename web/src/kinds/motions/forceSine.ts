import { newton, type Form, type Motion } from '../form'

export const forceSine: Form<Extract<Motion, { kind?: 'force_sine' }>> = {
  label: 'Sine of force',
  start: 'Start cycling',
  fields: [
    newton('lowest_n', 'Lowest'),
    newton('highest_n', 'Highest'),
    { name: 'frequency_hz', label: 'Frequency', unit: 'Hz', decimals: 2 },
  ],
  seed: () => ({ kind: 'force_sine', lowest_n: 100, highest_n: 1000, frequency_hz: 5 }),
}
