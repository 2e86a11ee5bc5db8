import { mm, type Form, type Leg } from '../form'

export const travel: Form<Extract<Leg, { kind?: 'to_travel' }>> = {
  label: 'To a travel',
  fields: [
    mm('travel_m', 'Travel'),
    { name: 'speed_m_s', label: 'At', unit: 'mm/s', by: 1e-3, decimals: 3 },
  ],
  several: true,
  seed: () => ({ kind: 'to_travel', travel_m: 0, speed_m_s: 1e-3 }),
}
