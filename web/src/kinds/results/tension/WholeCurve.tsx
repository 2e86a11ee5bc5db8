import { useCallback, useMemo } from 'react'
import type uPlot from 'uplot'

import { Plot } from '../../../plots/Plot'
import { figure } from '../../../ui/format'
import { At } from '../../../plots/At'
import type { Shown } from './shown'

/** The whole engineering curve with its strength and break; what the right plot shows is shaded. */
export function WholeCurve({ recipe, result, curve, name }: Shown) {
  const { strain, stress } = curve.whole
  const columns = useMemo(
    () =>
      [Array.from(strain, (s) => s * 100), Array.from(stress, (s) => s / 1e6)] as uPlot.AlignedData,
    [strain, stress],
  )
  const data = useCallback(() => columns, [columns])
  const curves = useMemo(() => [{ name, colour: '--curve-1', width: 2 }], [name])
  const top = (result.strength.stress / 1e6) * 1.14
  const reach = recipe.offset * 5 * 100
  return (
    <Plot
      curves={curves}
      data={data}
      unordered
      xName="Strain"
      xUnit="%"
      yName="Stress"
      yUnit="MPa"
      xRange={() => [0, Math.max(...(columns[0] as number[]), reach) * 1.04]}
      yRange={() => [0, top]}
      label="Stress over strain, whole curve"
      overlay={(plot) => (
        <>
          <span
            className="absolute bg-marking opacity-20"
            style={{
              left: plot.over.offsetLeft,
              top: plot.over.offsetTop,
              width: plot.valToPos(reach, 'x'),
              height: plot.over.clientHeight,
            }}
          />
          <At plot={plot} x={reach} y={top * 0.08}>
            <span className="ml-2 text-soft">shown at right</span>
          </At>
          <At plot={plot} x={result.strength.strain * 100} y={result.strength.stress / 1e6}>
            <Dot />
            <span className="absolute bottom-2 left-0 -translate-x-1/2 text-lead">
              <b className="font-heavy">Rm</b>{' '}
              <span className="figure font-number">{figure(result.strength.stress / 1e6, 1)}</span>
            </span>
          </At>
          {result.fracture && (
            <At plot={plot} x={result.fracture.strain * 100} y={result.fracture.stress / 1e6}>
              <svg width="10" height="10" className="absolute -translate-1/2" aria-hidden>
                <path d="M1 1l8 8M9 1l-8 8" stroke="var(--curve-1)" strokeWidth="1.8" />
              </svg>
              <span className="absolute top-2 right-0">
                <b className="font-name">A</b>{' '}
                <span className="figure">
                  {figure((result.elongation_after_break ?? 0) * 100, 1)}
                </span>{' '}
                <span className="text-soft">%</span>
              </span>
            </At>
          )}
        </>
      )}
    />
  )
}

export function Dot() {
  return <span className="absolute size-2.25 -translate-1/2 rounded-full bg-ink" />
}
