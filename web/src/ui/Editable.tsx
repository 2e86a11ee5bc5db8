import { useId, useState } from 'react'

import { ProblemError } from '../api/client'
import { figure, parseNumber } from './format'

interface TextProps {
  label: string
  value: string
  unit?: string
  disabled?: boolean
  /** Figures are set in the mono and aligned right. */
  numeric?: boolean
  hideLabel?: boolean
  onSave: (text: string) => Promise<unknown>
}

/** A setting that is saved when it is left or Enter is pressed; Esc brings the old value back. */
export function EditableText({
  label,
  value,
  unit,
  disabled,
  numeric,
  hideLabel,
  onSave,
}: TextProps) {
  const id = useId()
  const [draft, setDraft] = useState<string | null>(null)
  const [problem, setProblem] = useState<{ title: string; hint?: string } | null>(null)
  const save = async () => {
    if (draft === null || draft === value) return setDraft(null)
    try {
      await onSave(draft)
      setDraft(null)
      setProblem(null)
    } catch (error) {
      setProblem(ProblemError.of(error))
    }
  }
  return (
    <div className="border-t border-rule first-of-type:border-t-0">
      <div className="flex min-h-7 items-center gap-2 text-small">
        <label htmlFor={id} className={hideLabel ? 'sr-only' : 'max-w-[70%] flex-none text-soft'}>
          {label}
        </label>
        <input
          id={id}
          value={draft ?? value}
          disabled={disabled}
          aria-invalid={!!problem}
          aria-describedby={problem ? `${id}-problem` : undefined}
          onChange={(e) => setDraft(e.target.value)}
          onBlur={save}
          onKeyDown={(e) => {
            if (e.key === 'Enter') void save()
            if (e.key === 'Escape') {
              setDraft(null)
              setProblem(null)
            }
          }}
          className={`ml-auto field-sizing-content max-w-[75%] min-w-8 shrink border-b border-dotted bg-transparent pb-px text-right disabled:border-transparent ${
            numeric ? 'figure' : ''
          } ${problem ? 'border-signal text-signal' : 'border-soft'}`}
        />
        {unit && <span className="flex-none text-soft">{unit}</span>}
      </div>
      {problem && (
        <p id={`${id}-problem`} role="alert" className="pb-1 text-small leading-4 text-signal">
          {problem.title} {problem.hint}
        </p>
      )}
    </div>
  )
}

interface NumberProps extends Omit<TextProps, 'value' | 'onSave' | 'numeric'> {
  value: number | null
  decimals: number
  onSave: (value: number) => Promise<unknown>
  /** A field that may be empty: what clears it. */
  onClear?: () => Promise<unknown>
}

/** A number typed in display units; text is refused where it is typed. */
export function EditableNumber({ value, decimals, onSave, onClear, ...rest }: NumberProps) {
  return (
    <EditableText
      {...rest}
      numeric
      value={value === null ? '' : figure(value, decimals)}
      onSave={(text) => {
        if (onClear && text.trim() === '') return onClear()
        const number = parseNumber(text)
        if (number === null)
          throw new ProblemError({ title: `${rest.label} must be a number.`, status: 422 })
        return onSave(number)
      }}
    />
  )
}
