import { inForce } from '../../../kinds/inputs/drawing/marks'
import type { Line } from './rows'

interface Props {
  lines: readonly Line[]
  chosen: ReadonlySet<number>
  /** Which part of the whole is in view, from 0 to 1. */
  view: readonly [number, number]
  onGo: (share: number) => void
}

/** The scroll bar as a ruler of all rows: faults, what is not wired, what is chosen. */
export function Ruler({ lines, chosen, view, onGo }: Props) {
  const share = (i: number) => `${((i + 0.5) / Math.max(lines.length, 1)) * 100}%`
  return (
    <div
      className="relative w-4 flex-none cursor-pointer border-l border-rule bg-paper"
      aria-hidden
      onMouseDown={(e) => {
        const box = e.currentTarget.getBoundingClientRect()
        onGo((e.clientY - box.top) / box.height)
      }}
    >
      {lines.map((line, i) => {
        if (line.kind === 'group') return null
        const check = line.channel && inForce(line.channel)
        const fault = check && !check.passed
        const style = { top: share(i) }
        if (fault)
          return <i key={line.id} style={style} className="absolute right-1 h-0.75 w-2 bg-signal" />
        if (chosen.has(line.id))
          return (
            <i key={line.id} style={style} className="absolute right-1 h-0.75 w-2 bg-marking" />
          )
        if (!line.channel)
          return (
            <i
              key={line.id}
              style={style}
              className="absolute right-1.5 size-1 rounded-full border border-rule-strong"
            />
          )
        return null
      })}
      <span
        className="absolute inset-x-0.5 rounded border border-ink"
        style={{ top: `${view[0] * 100}%`, height: `${(view[1] - view[0]) * 100}%` }}
      />
    </div>
  )
}
