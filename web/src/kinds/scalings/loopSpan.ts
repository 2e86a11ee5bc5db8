import { field, type ScalingKind } from './scaling'

export const loopSpan: ScalingKind<'loop_span'> = {
  label: 'Loop span',
  fields: [
    field('at_4_ma', 'At 4 mA', 'quantity', 3),
    field('at_20_ma', 'At 20 mA', 'quantity', 3),
  ],
  seed: () => ({ kind: 'loop_span', at_4_ma: 0, at_20_ma: 1 }),
}
