import { newton, type Form, type Leg } from '../form'

export const force: Form<Extract<Leg, { kind?: 'to_force' }>> = {
  label: 'To a force',
  fields: [newton('force_n', 'Force'), { ...newton('rate_n_s', 'At'), unit: 'N/s' }],
  several: true,
  seed: () => ({ kind: 'to_force', force_n: 1000, rate_n_s: 100 }),
}
