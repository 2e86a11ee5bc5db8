import { useState } from 'react'

import type { Evaluation } from '../../../api/calibrations'
import { Choice } from '../../../ui/Choice'
import { figure } from '../../../ui/format'
import { fromSi } from '../../../ui/units'

/** The uncertainty budget at one load: each term, what it rests on, and what they come to. */
export function BudgetTable({ evaluation, unit }: { evaluation: Evaluation; unit: string }) {
  const [at, setAt] = useState(evaluation.loads.length - 1)
  const load = evaluation.loads[at] ?? evaluation.loads.at(-1)!
  const most = Math.max(...load.terms.map((t) => t.share))
  return (
    <div>
      <Choice
        label="Budget at"
        value={String(at)}
        options={evaluation.loads.map(
          (l, i) => [String(i), `${+fromSi(l.load, unit).toPrecision(4)} ${unit}`] as const,
        )}
        onChoose={(to) => {
          setAt(Number(to))
          return Promise.resolve()
        }}
      />
      <table className="w-full text-small">
        <thead>
          <tr className="text-left text-soft">
            <th className="font-normal">Term</th>
            <th className="text-right font-normal">u, %</th>
            <th className="w-14 font-normal">
              <span className="sr-only">share</span>
            </th>
            <th className="text-right font-normal">dof</th>
          </tr>
        </thead>
        <tbody>
          {load.terms.map((t) => (
            <tr key={t.name} className="border-t border-rule leading-5" title={t.distribution}>
              <td className="first-letter:uppercase">{t.name}</td>
              <td className="figure text-right">{figure(t.share * 100, 4)}</td>
              <td className="pl-2">
                <span
                  className="block h-2 bg-petrol"
                  style={{ width: `${most ? (t.share / most) * 100 : 0}%` }}
                />
              </td>
              <td className="figure text-right">{t.dof === null ? '∞' : figure(t.dof, 0)}</td>
            </tr>
          ))}
          <tr className="border-t border-ink leading-5 font-number">
            <td>U, k = {load.factor.toFixed(2)}</td>
            <td className="figure text-right">{figure(load.expanded * 100, 3)}</td>
            <td />
            <td />
          </tr>
        </tbody>
      </table>
    </div>
  )
}
