import type { ReactNode } from 'react'
import { Link } from 'react-router'

import type { Run } from '../../api/client'
import type { List } from '../../api/list'
import { Older } from '../../ui/Older'
import { row } from '../../ui/row'

interface Props {
  runs: Run[]
  /** Where they come from: there may be older ones. */
  list: List<Run>
  chosen: number
  onChoose: (id: number) => void
  children?: ReactNode
}

export function RunList(props: Props) {
  return (
    <section className="col row-span-2" aria-label="Runs">
      <div className="bar">
        <h2>Runs</h2>
      </div>
      <ul className="min-h-24 flex-1 overflow-auto">
        {[...props.runs].reverse().map((run) => (
          <li key={run.id}>
            <button
              type="button"
              aria-pressed={run.id === props.chosen}
              onClick={() => props.onChoose(run.id)}
              className={row({
                chosen: run.id === props.chosen,
                className: 'block w-full border-b border-rule px-4 py-2 text-left leading-4.25',
              })}
            >
              <b className="block truncate font-strong">{run.name}</b>
              <span className="block truncate text-small text-soft">
                {run.imported ? 'imported' : run.state}
                {run.streams.some((s) => s.gaps.length) ? ', with gaps' : ''}
              </span>
            </button>
          </li>
        ))}
        <Older list={props.list} what="runs" />
      </ul>
      {props.children}
      <Link to="import" relative="path" className="border-t border-rule px-4 py-2.5 text-petrol">
        Import a file
      </Link>
    </section>
  )
}
