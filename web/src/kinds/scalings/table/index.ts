import { line, type ScalingKind } from '../scaling'
import { TableForm } from './TableForm'

export const table: ScalingKind<'table'> = {
  label: 'Table of points',
  fields: [],
  seed: (c) => {
    const { signal_1, value_1, signal_2, value_2 } = 'signal_1' in c.scaling ? c.scaling : line(c)
    const points = [
      { signal: signal_1, value: value_1 },
      { signal: signal_2, value: value_2 },
    ]
    return { kind: 'table', points: points.sort((a, b) => a.signal - b.signal) }
  },
  Form: TableForm,
}
