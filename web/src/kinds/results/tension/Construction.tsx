import { useCallback, useMemo, useState } from 'react'
import type uPlot from 'uplot'

import { useMay } from '../../../api/queries'
import { Plot } from '../../../plots/Plot'
import { figure } from '../../../ui/format'
import { attempt } from '../../../ui/notices'
import { At } from '../../../plots/At'
import { Handle } from '../../../plots/Handle'
import type { Points, Shown } from './shown'
import { Dot } from './WholeCurve'

const MPA = 1e6

/** The elastic part with the fitted line, the offset line and their draggable handles. */
export function Construction({ recipe, result, curve, name, change }: Shown) {
  const may = useMay('change recipes')
  const [drag, setDrag] = useState<Partial<typeof recipe>>({})
  const shown = { ...recipe, ...drag }
  const save = async (to: Partial<typeof recipe>) => {
    await attempt(change(to))
    setDrag({})
  }
  const slope = result.modulus.slope / MPA / 100 // MPa per %
  const top = (result.strength.stress / MPA) * 1.14
  const reach = recipe.offset * 5 * 100
  const data = useData(curve.near, slope, shown.offset * 100, top)
  const curves = useMemo(
    () => [
      { name: 'fit', colour: '--ink', width: 1 },
      { name: 'offset', colour: '--ink', width: 1 },
      { name, colour: '--curve-1', width: 2.2 },
    ],
    [name],
  )
  return (
    <Plot
      curves={curves}
      data={data}
      xName="Strain"
      xUnit="%"
      yName="Stress"
      yUnit="MPa"
      xRange={() => [-0.05 * reach, reach]}
      yRange={() => [0, top]}
      label="Stress over strain, elastic part with construction lines"
      overlay={(plot) => (
        <>
          <span
            className="absolute bg-petrol opacity-10"
            style={{
              left: plot.over.offsetLeft,
              width: plot.over.clientWidth,
              top: plot.valToPos(shown.fit_upper_pa / MPA, 'y') + plot.over.offsetTop,
              height:
                plot.valToPos(shown.fit_lower_pa / MPA, 'y') -
                plot.valToPos(shown.fit_upper_pa / MPA, 'y'),
            }}
          />
          <At plot={plot} x={reach * 0.46} y={shown.fit_upper_pa / MPA}>
            <span className="absolute top-2 left-0 leading-4">
              <span className="text-lead">
                <b className="font-heavy">E</b>{' '}
                <span className="figure font-number">{figure(result.modulus.slope / 1e9, 1)}</span>{' '}
                <span className="text-soft">GPa</span>
              </span>
              <span className="block text-soft">
                from <span className="figure">{figure(shown.fit_lower_pa / MPA, 0)}</span> to{' '}
                <span className="figure">{figure(shown.fit_upper_pa / MPA, 0)}</span> MPa
              </span>
            </span>
          </At>
          {result.proof && (
            <At plot={plot} x={result.proof.strain * 100} y={result.proof.stress / MPA}>
              <Dot />
              <span className="absolute top-2.5 left-0 text-lead">
                <b className="font-heavy">Rp{figure(recipe.offset * 100, 1)}</b>{' '}
                <span className="figure font-number">{figure(result.proof.stress / MPA, 1)}</span>{' '}
                <span className="text-small text-soft">MPa</span>
              </span>
            </At>
          )}
          {(['fit_lower_pa', 'fit_upper_pa'] as const).map((field) => (
            <Handle
              key={field}
              plot={plot}
              along="y"
              value={shown[field] / MPA}
              across={shown[field] / MPA / slope}
              min={1}
              max={Math.floor(top)}
              step={1}
              label={field === 'fit_lower_pa' ? 'Fit range from' : 'Fit range to'}
              decimals={0}
              unit="MPa"
              disabled={!may}
              onMove={(stress) => setDrag({ [field]: stress * MPA })}
              onRest={(stress) => void save({ [field]: stress * MPA })}
            />
          ))}
          <Handle
            plot={plot}
            along="x"
            value={shown.offset * 100}
            across={0}
            min={0.01}
            max={Math.floor(reach * 1000) / 1000}
            step={0.001}
            filled
            label="Foot of the offset line"
            decimals={3}
            unit="%"
            disabled={!may}
            onMove={(percent) => setDrag({ offset: percent / 100 })}
            onRest={(percent) => void save({ offset: percent / 100 })}
          />
          <At plot={plot} x={shown.offset * 100} y={0}>
            <span className="absolute bottom-1.5 left-3">
              offset <span className="figure">{figure(shown.offset * 100, 3)}</span> %
            </span>
          </At>
        </>
      )}
    />
  )
}

/** One x column for all: uPlot joins what is not null. */
function useData(
  near: Points,
  slope: number,
  offset: number,
  top: number,
): () => uPlot.AlignedData {
  const columns = useMemo(() => {
    const points = [
      ...Array.from(near.strain, (s, i) => [s * 100, 2, near.stress[i]! / MPA] as const),
      ...[0, offset].flatMap((foot, line) => [
        [foot, line, 0] as const,
        [foot + (top * 0.97) / slope, line, top * 0.97] as const,
      ]),
    ].sort((a, b) => a[0] - b[0])
    const column = (which: number) =>
      points.map(([, line, y]) => (line === which ? y : undefined)) as (number | undefined)[]
    return [points.map((p) => p[0]), column(0), column(1), column(2)] as uPlot.AlignedData
  }, [near, slope, offset, top])
  return useCallback(() => columns, [columns])
}
