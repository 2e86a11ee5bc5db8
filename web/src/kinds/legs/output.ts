import type { Form, Leg } from '../form'

export const output: Form<Extract<Leg, { kind?: 'output' }>> = {
  label: 'Set an output',
  fields: [{ name: 'output', label: 'Output', decimals: 0 }],
  choices: [
    [
      'on',
      'Switched',
      [
        [true, 'on'],
        [false, 'off'],
      ],
    ],
  ],
  several: true,
  seed: () => ({ kind: 'output', output: 1, on: true }),
}
