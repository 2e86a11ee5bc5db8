import { useQueries, useQuery } from '@tanstack/react-query'

import type { Derivation, Run, Schemas } from '../../api/client'
import { derivationsQuery, seriesQuery } from '../../api/results'
import { figure, resultFigure } from '../../ui/format'
import { fromSi, spanFromSi } from '../../ui/units'
import { Uncertainties } from './Uncertainties'

const SHOWN = 6
type Result = Schemas['ResultOut']

interface Props {
  runs: Run[]
  chosen: number
  recipe: number
  setupId: number
}

/** Results of the newest runs by one recipe, with the mean and deviation of those that were kept. */
export function ResultTable({ runs, chosen, recipe, setupId }: Props) {
  const shown = runs.filter((r, i) => i >= runs.length - SHOWN || r.id === chosen)
  const found = useQueries({ queries: shown.map((r) => derivationsQuery(r.id)) })
  const series = useQuery(seriesQuery(setupId)).data ?? []
  const rows = found.map((q) => q.data?.find((d: Derivation) => d.recipe.id === recipe))
  const chosenRow = rows[shown.findIndex((r) => r.id === chosen)]
  const columns = rows.find((d) => d?.results.length)?.results ?? []
  const of = (symbol: string) => series.find((s) => s.recipe === recipe && s.symbol === symbol)
  const valuesOf = (symbol: string) =>
    rows
      .flatMap((d) => d?.results.filter((r) => r.symbol === symbol && r.value !== null) ?? [])
      .map((r) => fromSi(r.value!, r.unit))
  const count = Math.max(0, ...columns.map((c) => of(c.symbol)?.count ?? 0))
  return (
    <table className="grid-table">
      <thead>
        <tr>
          <th className="pl-4!">Run</th>
          {columns.map((c) => (
            <th key={c.symbol} title={words(c)} style={{ textAlign: 'right' }}>
              {c.symbol} {c.unit === '1' ? '' : c.unit}
            </th>
          ))}
          <th className="pl-6!">Name and state</th>
        </tr>
      </thead>
      <tbody>
        {shown.map((run, i) => (
          <tr key={run.id} className={`h-5.75 ${run.id === chosen ? 'bg-marking-wash' : ''}`}>
            <td className="pl-4! text-body! font-strong">{run.specimen}</td>
            {columns.map((c) => {
              const result = rows[i]?.results.find((r) => r.symbol === c.symbol)
              return (
                <td key={c.symbol} className="figure text-right text-body!">
                  {result && result.value !== null
                    ? resultFigure(
                        fromSi(result.value, result.unit),
                        result.decimals,
                        valuesOf(c.symbol),
                      )
                    : '–'}
                </td>
              )
            })}
            <td className="pl-6! text-soft">
              {run.name}, {run.state}
              {run.state === 'interrupted' && ', not in the mean'}
            </td>
          </tr>
        ))}
        {chosenRow && chosenRow.results.some((r) => r.expanded !== null) && (
          <Uncertainties derivation={chosenRow} columns={columns} />
        )}
        {count > 1 && (
          <>
            <tr className="h-5.75 font-strong">
              <td className="border-ink! pl-4!">Mean of {count}</td>
              {columns.map((c) => (
                <td key={c.symbol} className="figure text-right">
                  {meanIn(c, of(c.symbol)?.mean, valuesOf(c.symbol))}
                </td>
              ))}
              <td />
            </tr>
            <tr className="h-5.75">
              <td className="pl-4!">Deviation</td>
              {columns.map((c) => (
                <td key={c.symbol} className="figure text-right">
                  {deviationIn(c, of(c.symbol)?.deviation)}
                </td>
              ))}
              <td />
            </tr>
          </>
        )}
      </tbody>
    </table>
  )
}

const words = (r: Result) => [r.name, r.method, r.clause].filter(Boolean).join(', ')

const meanIn = (r: Result, value: number | null | undefined, beside: number[]): string =>
  resultFigure(value == null ? null : fromSi(value, r.unit), r.decimals, beside)

/** With the decimals of its column, however small it is. */
const deviationIn = (r: Result, value: number | null | undefined): string =>
  figure(value == null ? null : spanFromSi(value, r.unit), r.decimals)
