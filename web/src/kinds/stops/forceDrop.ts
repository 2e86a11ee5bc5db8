import { newton, type Form, type Stop } from '../form'

export const forceDrop: Form<Extract<Stop, { kind?: 'force_drop' }>> = {
  label: 'Force falls',
  fields: [
    { name: 'share', label: 'By', unit: '%', by: 0.01, decimals: 0 },
    newton('arm_n', 'Once above'),
  ],
  seed: () => ({ kind: 'force_drop', share: 0.4, arm_n: 500 }),
}
