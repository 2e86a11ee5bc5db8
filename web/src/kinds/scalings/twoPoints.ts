import { field, line, type ScalingKind } from './scaling'

export const twoPoints: ScalingKind<'two_points'> = {
  label: 'Two points',
  fields: [
    field('signal_1', 'Point 1, signal', 'signal', 4),
    field('value_1', 'Point 1, value', 'quantity', 4),
    field('signal_2', 'Point 2, signal', 'signal', 4),
    field('value_2', 'Point 2, value', 'quantity', 4),
  ],
  seed: (c) => ({ kind: 'two_points', ...line(c) }),
}
