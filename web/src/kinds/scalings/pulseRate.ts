import { field, type ScalingKind } from './scaling'

export const pulseRate: ScalingKind<'pulse_rate'> = {
  label: 'Pulses a turn',
  fields: [field('pulses_per_turn', 'Pulses a turn', 'number', 0)],
  seed: () => ({ kind: 'pulse_rate', pulses_per_turn: 60 }),
}
