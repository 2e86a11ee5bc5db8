import { gaugeLength, mm, type Form, type Specimen } from '../form'

export const tube: Form<Extract<Specimen, { kind?: 'tube' }>> = {
  label: 'Tube',
  fields: [mm('outer_m', 'Outside'), mm('wall_m', 'Wall'), gaugeLength],
  seed: () => ({ kind: 'tube', outer_m: 30e-3, wall_m: 2e-3, gauge_length_m: 50e-3 }),
}
