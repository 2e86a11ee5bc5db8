import { RadioGroup } from 'radix-ui'
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
    <RadioGroup.Root
      aria-label={props.label}
      value={props.value}
      onValueChange={(value) => props.onChange(value as T)}
      disabled={props.disabled}
      orientation="horizontal"
      className="inline-flex h-6 flex-none overflow-hidden rounded border border-rule-strong"
    >
      {props.options.map(([value, words]) => (
        <RadioGroup.Item
          key={value}
          value={value}
          className={`border-r border-rule-strong text-small text-soft last:border-r-0 data-[state=checked]:bg-ink data-[state=checked]:font-strong data-[state=checked]:text-paper ${props.dense ? 'px-1.5' : 'px-2'}`}
        >
          {words}
        </RadioGroup.Item>
      ))}
    </RadioGroup.Root>
  )
}
