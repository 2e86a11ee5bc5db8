import { Button } from '../../../ui/Button'
import type { GridState } from './useGrid'

/** What filling down would do, before it is done. */
export function FillPanel({ grid }: { grid: GridState }) {
  const proposal = grid.proposal!
  const outcomes = [...proposal.outcomes.values()]
  const rows = proposal.inputs.length - 1
  const changes = outcomes.filter((o) => !o.why_not && o.before !== o.text).length
  const not = outcomes.filter((o) => o.why_not)
  const names = outcomes.filter((o) => o.column === 'name')
  return (
    <div
      role="dialog"
      aria-label="Fill down"
      className="absolute right-6 bottom-12 z-20 w-67.5 rounded border border-marking bg-marking-wash p-3 shadow-[inset_4px_0_0_var(--marking),0_6px_20px_rgba(0,0,0,.18)]"
    >
      <b className="font-name">
        Fill {rows} {rows === 1 ? 'row' : 'rows'} down
        {names.length > 0 && ` to ${names.at(-1)!.text}`}
      </b>
      <p>
        {changes} {changes === 1 ? 'cell changes' : 'cells change'}
        {names.length > 0 && ', names count on'}
      </p>
      {not.length > 0 && (
        <p className="text-marking-ink">
          {not.length} not taken: {not[0]!.why_not}
        </p>
      )}
      <p className="text-soft">One undo takes all back</p>
      <div className="mt-2 flex gap-2">
        <Button shortcut="Enter" onClick={() => void grid.fill()}>
          Fill {rows} {rows === 1 ? 'row' : 'rows'}
        </Button>
        <Button onClick={grid.leave}>Leave</Button>
      </div>
    </div>
  )
}
