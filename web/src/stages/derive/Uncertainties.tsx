import { useState } from 'react'

import type { Derivation, Schemas } from '../../api/client'
import { spanFromSi } from '../../ui/units'

type Result = Schemas['ResultOut']

interface Props {
  derivation: Derivation
  columns: Result[]
}

/** U of each result of the chosen run; asked for, also the terms that it comes of. */
export function Uncertainties({ derivation, columns }: Props) {
  const [open, show] = useState(false)
  const results = columns.map((c) => derivation.results.find((r) => r.symbol === c.symbol))
  const names = [...new Set(results.flatMap((r) => r?.budget.map((t) => t.name) ?? []))]
  const factor = results.find((r) => r?.factor != null)?.factor
  return (
    <>
      <tr className="h-5.75">
        <td className="pl-4! font-strong">U, k = {factor?.toFixed(2)}</td>
        {results.map((r, i) => (
          <td key={i} className="figure text-right">
            {r?.expanded == null ? '–' : `± ${shown(r, r.expanded)}`}
          </td>
        ))}
        <td className="pl-6!">
          <button
            type="button"
            aria-expanded={open}
            onClick={() => show(!open)}
            className="border-b border-dotted border-soft text-small text-soft"
          >
            {open ? 'Without its terms' : 'Where it comes from'}
          </button>
        </td>
      </tr>
      {open &&
        names.map((name) => (
          <tr key={name} className="h-5.75 text-soft">
            <td className="pl-4! whitespace-nowrap">u, {name}</td>
            {results.map((r, i) => {
              const term = r?.budget.find((t) => t.name === name)
              return (
                <td key={i} className="figure text-right">
                  {r && term ? shown(r, term.standard) : ''}
                </td>
              )
            })}
            <td />
          </tr>
        ))}
      {open && derivation.lacks.length > 0 && (
        <tr>
          <td colSpan={columns.length + 2} className="pl-4! text-small text-marking-ink">
            Not in it: {derivation.lacks.join(' ')}
          </td>
        </tr>
      )}
    </>
  )
}

const NEGLIGIBLE = 0.01 // of the last digit of a figure

/** Two digits say how sure something is; far below the last digit of the result it is 0. */
const shown = (r: Result, si: number) => {
  const value = spanFromSi(si, r.unit)
  return value >= NEGLIGIBLE * 10 ** -r.decimals ? String(+value.toPrecision(2)) : '0'
}
