import { newton, type Form, type Leg } from '../form'

export const wave: Form<Extract<Leg, { kind?: 'wave' }>> = {
  label: 'Cycles',
  fields: [
    newton('lowest_n', 'Lowest'),
    newton('highest_n', 'Highest'),
    { name: 'frequency_hz', label: 'Frequency', unit: 'Hz', decimals: 2 },
    { name: 'cycles', label: 'Cycles', decimals: 0 },
    { name: 'held_within', label: 'Size held within ±', unit: '%', by: 0.01, decimals: 0 },
  ],
  choices: [
    [
      'shape',
      'Shape',
      [
        ['sine', 'sine'],
        ['triangle', 'triangle'],
        ['trapezoid', 'trapezoid'],
      ],
    ],
  ],
  several: true,
  seed: () => ({
    kind: 'wave',
    shape: 'sine',
    lowest_n: 200,
    highest_n: 1800,
    frequency_hz: 2,
    cycles: 100,
    held_within: 0,
  }),
}
