import { gaugeLength, type Form, type Specimen } from '../form'

export const area: Form<Extract<Specimen, { kind?: 'area' }>> = {
  label: 'Other section',
  fields: [
    { name: 'section_m2', label: 'Section', unit: 'mm²', by: 1e-6, decimals: 2 },
    gaugeLength,
  ],
  seed: () => ({ kind: 'area', section_m2: 50e-6, gauge_length_m: 50e-3 }),
}
