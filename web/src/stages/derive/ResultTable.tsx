import { useQueries } from '@tanstack/react-query'

import type { Run, TensionResult as Result } from '../../api/client'
import { tensionQuery } from '../../api/queries'
import { figure } from '../../ui/format'

const COLUMNS: readonly (readonly [string, string, number, (r: Result) => number | null])[] = [
  ['E', 'GPa', 1, (r) => r.modulus.slope / 1e9],
  ['Rp', 'MPa', 1, (r) => (r.proof ? r.proof.stress / 1e6 : null)],
  ['Rm', 'MPa', 1, (r) => r.strength.stress / 1e6],
  ['Ag', '%', 1, (r) => r.plastic_at_strength * 100],
  ['At', '%', 1, (r) => (r.fracture ? r.fracture.strain * 100 : null)],
  ['A', '%', 1, (r) => (r.elongation_after_break === null ? null : r.elongation_after_break * 100)],
  ['Energy', 'MJ/m³', 1, (r) => r.energy / 1e6],
]
const SHOWN = 6

const mean = (values: number[]) => values.reduce((a, b) => a + b, 0) / values.length
const deviation = (values: number[]) => {
  const m = mean(values)
  return Math.sqrt(values.reduce((a, v) => a + (v - m) ** 2, 0) / (values.length - 1))
}

/** Results of the newest runs with their mean and deviation. */
export function ResultTable({ runs, chosen }: { runs: Run[]; chosen: number }) {
  const shown = runs.filter((r, i) => i >= runs.length - SHOWN || r.id === chosen)
  const results = useQueries({ queries: shown.map((r) => tensionQuery(r.id)) }).map((q) => q.data)
  const good = results.flatMap((r) => r?.result ?? [])
  const offset = results.find((r) => r)?.recipe.offset ?? 0.002
  const statistic = (of: (values: number[]) => number) =>
    COLUMNS.map(([name, , decimals, value]) => {
      const values = good.map(value).filter((v) => v !== null)
      return (
        <td key={name} className="figure text-right">
          {figure(values.length > 1 ? of(values) : null, decimals)}
        </td>
      )
    })
  return (
    <table className="grid-table">
      <thead>
        <tr>
          <th className="pl-4!">Coupon</th>
          <th style={{ textAlign: 'right' }}>b mm</th>
          <th style={{ textAlign: 'right' }}>t mm</th>
          {COLUMNS.map(([name, unit]) => (
            <th key={name} style={{ textAlign: 'right' }}>
              {name === 'Rp' ? `Rp${figure(offset * 100, 1)}` : name} {unit}
            </th>
          ))}
          <th className="pl-6!">Run</th>
        </tr>
      </thead>
      <tbody>
        {shown.map((run, i) => (
          <tr key={run.id} className={`h-[23px] ${run.id === chosen ? 'bg-marking-wash' : ''}`}>
            <td className="pl-4! text-[13px]! font-[620]">{run.specimen}</td>
            <td className="figure text-right">{figure(run.width_m * 1e3, 2)}</td>
            <td className="figure text-right">{figure(run.thickness_m * 1e3, 2)}</td>
            {COLUMNS.map(([name, , decimals, value]) => {
              const result = results[i]?.result
              return (
                <td key={name} className="figure text-right text-[13px]!">
                  {figure(result ? value(result) : null, decimals)}
                </td>
              )
            })}
            <td className="pl-6! text-soft">
              {run.name}, {run.state}
            </td>
          </tr>
        ))}
        {good.length > 1 && (
          <>
            <tr className="h-[23px] font-[620]">
              <td className="border-ink! pl-4!" colSpan={3}>
                Mean of {good.length}
              </td>
              {statistic(mean)}
              <td />
            </tr>
            <tr className="h-[23px]">
              <td className="pl-4!" colSpan={3}>
                Deviation
              </td>
              {statistic(deviation)}
              <td />
            </tr>
          </>
        )}
      </tbody>
    </table>
  )
}
