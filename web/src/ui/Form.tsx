import { useState, type FormEvent, type ReactNode } from 'react'

import { ProblemError } from '../api/client'
import { Button } from './Button'

interface Props {
  label: string
  action: string
  /** Gets the form's fields by name. */
  onSubmit: (fields: Record<string, string>) => Promise<unknown>
  onCancel?: () => void
  children: ReactNode
}

/** A few fields that become something together; what is wrong stands under them. */
export function Form({ label, action, onSubmit, onCancel, children }: Props) {
  const [problem, setProblem] = useState<ProblemError | null>(null)
  const submit = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault()
    const form = new FormData(event.currentTarget)
    try {
      await onSubmit(Object.fromEntries([...form].map(([k, v]) => [k, String(v)])))
      setProblem(null)
    } catch (error) {
      setProblem(ProblemError.of(error))
    }
  }
  return (
    <form aria-label={label} onSubmit={(e) => void submit(e)} className="flex flex-col gap-2.5">
      {children}
      {problem && (
        <p role="alert" className="text-small leading-4 text-signal">
          <b className="font-strong">{problem.title}</b> {problem.hint}
        </p>
      )}
      <div className="flex gap-2 pt-1">
        <Button look="go" size={36} type="submit">
          {action}
        </Button>
        {onCancel && (
          <Button size={36} onClick={onCancel}>
            Leave it
          </Button>
        )}
      </div>
    </form>
  )
}

const LOOK =
  'mt-0.5 block h-8 w-full rounded border border-rule-strong bg-paper px-2 text-body text-ink'

export function TextField(props: {
  name: string
  label: string
  value?: string
  required?: boolean
  autoFocus?: boolean
  type?: string
  autoComplete?: string
}) {
  const { label, value, type = 'text', autoComplete = 'off', ...rest } = props
  return (
    <label className="block text-small text-soft">
      {label}
      <input
        {...rest}
        type={type}
        autoComplete={autoComplete}
        defaultValue={value}
        className={LOOK}
      />
    </label>
  )
}

export function SelectField(props: {
  name: string
  label: string
  value?: string
  onChange?: (value: string) => void
  options: readonly (readonly [string, string])[]
}) {
  return (
    <label className="block text-small text-soft">
      {props.label}
      <select
        name={props.name}
        value={props.value}
        onChange={(e) => props.onChange?.(e.target.value)}
        className={LOOK}
      >
        {props.options.map(([value, words]) => (
          <option key={value} value={value}>
            {words}
          </option>
        ))}
      </select>
    </label>
  )
}
