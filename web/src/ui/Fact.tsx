import type { ReactNode } from 'react'

/** One thing known: its name, and its value at the right. */
export function Fact({ name, children }: { name: string; children: ReactNode }) {
  return (
    <div className="flex min-h-7 items-center justify-between gap-3 border-t border-rule text-small first-of-type:border-t-0">
      <span className="flex-none text-soft">{name}</span>
      <span className="text-right">{children}</span>
    </div>
  )
}

/** A part of an inspector, under its heading. */
export function Section({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="border-b border-rule px-4 py-2.5 last:border-b-0">
      <h3 className="mb-1">{title}</h3>
      {children}
    </section>
  )
}

/** A choice of a few things, one of them in force. */
export function Segments<T extends string>(props: {
  label: string
  options: readonly (readonly [T, string])[]
  value: T
  onChange: (value: T) => void
  disabled?: boolean
  /** Closer together, where there are many. */
  dense?: boolean
}) {
  return (
    <div
      role="radiogroup"
      aria-label={props.label}
      className="inline-flex h-6 flex-none overflow-hidden rounded border border-rule-strong"
    >
      {props.options.map(([value, words]) => (
        <button
          key={value}
          type="button"
          role="radio"
          aria-checked={value === props.value}
          disabled={props.disabled}
          onClick={() => props.onChange(value)}
          className={`border-r border-rule-strong text-small last:border-r-0 ${props.dense ? 'px-1.5' : 'px-2'} ${
            value === props.value ? 'bg-ink font-strong text-paper' : 'text-soft'
          }`}
        >
          {words}
        </button>
      ))}
    </div>
  )
}
