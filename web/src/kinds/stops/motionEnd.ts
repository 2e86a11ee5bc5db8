import { type Form, type Stop } from '../form'

export const motionEnd: Form<Extract<Stop, { kind?: 'motion_end' }>> = {
  label: 'Motion is done',
  fields: [],
  seed: () => ({ kind: 'motion_end' }),
}
