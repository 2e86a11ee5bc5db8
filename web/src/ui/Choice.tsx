import { useId } from 'react'

import { attempt } from './notices'

interface Props<T extends string> {
  label: string
  value: T
  options: readonly (readonly [T, string])[]
  disabled?: boolean
  onChoose: (value: T) => Promise<unknown>
}

/** One of several things, in a row like that of a number; saved when it is chosen. */
export function Choice<T extends string>({ label, value, options, disabled, onChoose }: Props<T>) {
  const id = useId()
  return (
    <div className="flex min-h-7 items-center gap-2 border-t border-rule text-small first-of-type:border-t-0">
      <label htmlFor={id} className="flex-none text-soft">
        {label}
      </label>
      <select
        id={id}
        value={value}
        disabled={disabled}
        onChange={(e) => void attempt(onChoose(e.target.value as T))}
        className="ml-auto max-w-[75%] min-w-0 border-b border-dotted border-soft bg-transparent pb-px text-right font-number disabled:appearance-none disabled:border-transparent"
      >
        {options.map(([key, words]) => (
          <option key={key} value={key}>
            {words}
          </option>
        ))}
      </select>
    </div>
  )
}
