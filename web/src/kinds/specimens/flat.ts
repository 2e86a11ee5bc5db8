import { gaugeLength, mm, type Form, type Specimen } from '../form'

export const flat: Form<Extract<Specimen, { kind?: 'flat' }>> = {
  label: 'Flat coupon',
  fields: [mm('width_m', 'Width'), mm('thickness_m', 'Thickness'), gaugeLength],
  seed: () => ({ kind: 'flat', width_m: 12.5e-3, thickness_m: 3e-3, gauge_length_m: 50e-3 }),
}
