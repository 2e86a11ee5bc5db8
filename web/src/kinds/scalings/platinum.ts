import { field, type ScalingKind } from './scaling'

export const platinum: ScalingKind<'platinum'> = {
  label: 'Platinum, IEC 60751',
  fields: [field('nominal_ohm', 'At 0 °C', 'ohm', 2)],
  seed: () => ({ kind: 'platinum', nominal_ohm: 100 }),
}
