import type { Channel } from '../../api/client'
import { field, type ScalingKind } from './scaling'

export const gauge: ScalingKind<'gauge'> = {
  label: 'Gauge factor',
  fields: [
    field('gauge_factor', 'Gauge factor', 'number', 3),
    field('poisson_ratio', "Part's Poisson ratio", 'number', 3),
  ],
  seed: () => ({ kind: 'gauge', gauge_factor: 2, poisson_ratio: 0.3, with_leads: true }),
  note: 'The bridge and its leads are solved exactly, not linearised.',
  factor: ({ gauge_factor }) => `${gauge_factor}`,
}

/** Whether it is a channel of strain gauges. */
export const isGauge = (c: Channel): boolean => 'gauge_factor' in c.scaling
