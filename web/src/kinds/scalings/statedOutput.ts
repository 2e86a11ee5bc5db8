import { field, type ScalingKind } from './scaling'

export const statedOutput: ScalingKind<'stated_output'> = {
  label: 'Output as stated',
  fields: [
    field('output_v', 'Output', 'millivolt', 5),
    field('excitation_v', 'At an excitation of', 'volt', 2),
    field('value', 'For', 'quantity', 4),
  ],
  seed: (c) => {
    const excitation_v = 'excitation_v' in c.conditioning ? c.conditioning.excitation_v : 5
    const output_v = 2e-3 * excitation_v
    return { kind: 'stated_output', output_v, excitation_v, value: 2e-3 * Math.abs(c.per_signal) }
  },
  note: 'As a data sheet says it: 10 mV at 5 V for the capacity, or so many µV for one unit.',
}
