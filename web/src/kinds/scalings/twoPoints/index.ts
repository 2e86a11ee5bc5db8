import { field, line, type ScalingKind } from '../scaling'
import { CapturePoints } from './CapturePoints'

export const twoPoints: ScalingKind<'two_points'> = {
  label: 'Two points',
  fields: [
    field('signal_1', 'Point A, signal', 'signal', 4),
    field('value_1', 'Point A, value', 'quantity', 4),
    field('signal_2', 'Point B, signal', 'signal', 4),
    field('value_2', 'Point B, value', 'quantity', 4),
  ],
  seed: (c) => ({ kind: 'two_points', ...line(c) }),
  Form: CapturePoints,
}
