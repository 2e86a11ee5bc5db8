import { gaugeLength, mm, type Form, type Specimen } from '../form'

export const round: Form<Extract<Specimen, { kind?: 'round' }>> = {
  label: 'Round bar',
  fields: [mm('diameter_m', 'Diameter'), gaugeLength],
  seed: () => ({ kind: 'round', diameter_m: 10e-3, gauge_length_m: 50e-3 }),
}
