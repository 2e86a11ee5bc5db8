import { useCallback, useMemo } from 'react'
import type uPlot from 'uplot'

import { Plot } from '../../../plots/Plot'
import { fromSi } from '../../../ui/units'
import type { Details } from '../kind'

interface Props {
  points: Float32Array
  details: Details<'cycles'>
}

/** The history as it is counted: from turning point to turning point. */
export function TurningPoints({ points, details }: Props) {
  const columns = useMemo(
    () =>
      [
        Array.from(points, (_, i) => i + 1),
        Array.from(points, (p) => fromSi(p, details.unit)),
      ] as uPlot.AlignedData,
    [points, details.unit],
  )
  const data = useCallback(() => columns, [columns])
  const curves = useMemo(() => [{ name: '', colour: '--curve-2', width: 1 }], [])
  const shown =
    points.length < details.points ? `, ${points.length} of ${details.points} shown` : ''
  return (
    <Plot
      curves={curves}
      data={data}
      xName="Turning point"
      xUnit={`number${shown}`}
      yName={details.channel}
      yUnit={details.unit}
      label={`Turning points of ${details.channel}`}
    />
  )
}
