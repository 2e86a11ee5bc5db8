import { mm, type Form, type Motion } from '../form'

export const ramp: Form<Extract<Motion, { kind?: 'ramp' }>> = {
  label: 'Pull',
  start: 'Start the pull',
  fields: [
    { name: 'speed_m_s', label: 'Speed', unit: 'mm/s', by: 1e-3, decimals: 3 },
    mm('travel_limit_m', 'At most'),
  ],
  seed: () => ({ kind: 'ramp', speed_m_s: 1.85e-4, travel_limit_m: 12e-3 }),
}
