import { type Form, type Specimen } from '../form'

export const part: Form<Extract<Specimen, { kind?: 'part' }>> = {
  label: 'Part',
  fields: [],
  seed: () => ({ kind: 'part' }),
}
