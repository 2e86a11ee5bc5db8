import { useState } from 'react'

import { figure, parseNumber } from '../ui/format'
import type { Ends } from './ends'

interface Props {
  /** Of which axis, as a person calls it. */
  of: string
  ends: Ends
  /** What is shown now, where nothing is typed. */
  shown: () => readonly [number, number]
  onChange: (ends: Ends) => void
  className?: string
}

/** Upper and lower end of an upright axis: a double click or Enter lets one be typed, nothing
 * typed follows the data again. */
export function AxisEnds({ of, ends, shown, onChange, className = '' }: Props) {
  return (
    <span className={`absolute left-0 z-10 flex w-14 flex-col justify-between ${className}`}>
      <End
        label={`Upper end of ${of}`}
        value={ends[1]}
        shown={() => shown()[1]}
        onSave={(high) => onChange([ends[0], high])}
      />
      <End
        label={`Lower end of ${of}`}
        value={ends[0]}
        shown={() => shown()[0]}
        onSave={(low) => onChange([low, ends[1]])}
      />
    </span>
  )
}

interface EndProps {
  label: string
  value: number | null
  shown: () => number
  onSave: (value: number | null) => void
}

function End({ label, value, shown, onSave }: EndProps) {
  const [draft, setDraft] = useState<string | null>(null)
  const begin = () => setDraft(figure(value ?? shown(), 3).replace(/\.?0+$/, ''))
  if (draft === null)
    return (
      <button
        type="button"
        aria-label={label}
        title={`${label}: double-click or Enter to type it${value === null ? '' : ', empty follows the data'}`}
        onDoubleClick={begin}
        onKeyDown={(e) => e.key === 'Enter' && (e.preventDefault(), begin())}
        className={`h-4 w-full ${value === null ? '' : 'border-y border-marking'}`}
      />
    )
  const save = () => {
    const number = parseNumber(draft)
    if (draft.trim() === '') onSave(null)
    else if (number !== null) onSave(number)
    setDraft(null)
  }
  return (
    <input
      autoFocus
      aria-label={label}
      value={draft}
      onChange={(e) => setDraft(e.target.value)}
      onFocus={(e) => e.target.select()}
      onBlur={save}
      onKeyDown={(e) => {
        e.stopPropagation()
        if (e.key === 'Enter') save()
        if (e.key === 'Escape') setDraft(null)
      }}
      className="figure h-5 w-full border-2 border-petrol bg-sheet px-0.5 text-right text-small"
    />
  )
}
