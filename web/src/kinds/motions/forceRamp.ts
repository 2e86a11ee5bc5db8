import { newton, type Form, type Motion } from '../form'

export const forceRamp: Form<Extract<Motion, { kind?: 'force_ramp' }>> = {
  label: 'To a force and back',
  start: 'Start loading',
  fields: [newton('peak_n', 'Peak'), { ...newton('rate_n_s', 'Rate'), unit: 'N/s' }],
  seed: () => ({ kind: 'force_ramp', peak_n: 1000, rate_n_s: 200 }),
}
