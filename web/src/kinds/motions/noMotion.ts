import { type Form, type Motion } from '../form'

export const noMotion: Form<Extract<Motion, { kind?: 'none' }>> = {
  label: 'Nothing moves',
  start: 'Start recording',
  fields: [],
  seed: () => ({ kind: 'none' }),
}
