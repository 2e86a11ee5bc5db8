import type { Setup } from '../../../api/client'
import { inForce } from '../../../kinds/inputs/drawing/marks'
import type { GridState } from './useGrid'

interface Props {
  setup: Setup
  inputs: number
  grid: GridState
}

/** Counts of the table, what became of the last paste, and the keys. */
export function Foot({ setup, inputs, grid }: Props) {
  const wired = setup.channels.length
  const faults = setup.channels.filter((c) => inForce(c)?.passed === false).length
  const { said } = grid
  return (
    <div className="flex h-7 flex-none items-center gap-4 border-t border-rule bg-paper px-4 text-small">
      <b className="font-strong">{inputs} inputs</b>
      <span>{wired} wired</span>
      {faults > 0 && (
        <b className="font-strong text-signal">
          {faults} {faults === 1 ? 'fault' : 'faults'}
        </b>
      )}
      {said && said.of > said.taken && (
        <b className="font-strong text-marking-ink">
          {said.of - said.taken} of {said.of} cells not taken
        </b>
      )}
      {said && said.commas > 0 && <span>{said.commas} decimal commas turned</span>}
      <span className="ml-auto text-soft">
        Type or Enter to edit, Ctrl C and V copy and paste, Ctrl D fills down
      </span>
    </div>
  )
}
