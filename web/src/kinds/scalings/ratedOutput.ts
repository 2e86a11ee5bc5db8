import { field, type ScalingKind } from './scaling'

export const ratedOutput: ScalingKind<'rated_output'> = {
  label: 'Rated output',
  fields: [
    field('rated_output', 'Rated output', 'signal', 4),
    field('capacity', 'Capacity', 'quantity', 3),
  ],
  seed: (c) => ({ kind: 'rated_output', rated_output: 2e-3, capacity: 2e-3 * c.per_signal }),
  factor: ({ rated_output }) => `${+(rated_output * 1e3).toFixed(5)} mV/V`,
}
