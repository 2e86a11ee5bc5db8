import type { ReactNode } from 'react'

interface Props {
  label: string
  columns: readonly string[]
  children: ReactNode
}

/** A table of figures in a pane: a row for each channel. */
export function FigureTable({ label, columns, children }: Props) {
  return (
    <div
      className="min-h-0 flex-1 overflow-auto px-4 pb-2"
      tabIndex={0}
      role="group"
      aria-label={label}
    >
      <table className="w-full text-small whitespace-nowrap">
        <thead>
          <tr className="h-9 border-b border-rule-strong">
            <th className="text-left font-strong">{label}</th>
            {columns.map((name) => (
              <th key={name} className="pl-3 text-right font-strong">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>{children}</tbody>
      </table>
    </div>
  )
}
