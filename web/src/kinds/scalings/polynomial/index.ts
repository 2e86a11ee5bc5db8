import { signalUnit, toSi } from '../../../ui/units'
import type { ScalingKind } from '../scaling'
import { PolynomialForm } from './PolynomialForm'

export const polynomial: ScalingKind<'polynomial'> = {
  label: 'Polynomial',
  fields: [],
  seed: (c) => {
    const [lowest = 0, highest = toSi(1, signalUnit(c.signal))] = c.ends
    return { kind: 'polynomial', coefficients: [0, c.per_signal || 1], lowest, highest }
  },
  Form: PolynomialForm,
}
