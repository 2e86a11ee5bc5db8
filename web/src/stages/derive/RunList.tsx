import type { ReactNode } from 'react'
import { Link } from 'react-router'

import type { Run } from '../../api/client'
import type { List } from '../../api/list'
import { Fact } from '../../ui/Fact'
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
  const chosen = props.runs.find((run) => run.id === props.chosen)
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
      {chosen && <AtTheStart run={chosen} />}
      {props.children}
      <Link to="import" relative="path" className="border-t border-rule px-4 py-2.5 text-petrol">
        Import a file
      </Link>
    </section>
  )
}

/** What was asked for when the run began, and what its starter accepted. */
function AtTheStart({ run }: { run: Run }) {
  const answers = Object.entries(run.answers)
  if (answers.length === 0 && run.accepted.length === 0) return null
  return (
    <div
      aria-label="At its start"
      className="max-h-40 overflow-y-auto border-t border-rule px-4 py-1.5"
    >
      {answers.map(([name, answer]) => (
        <Fact key={name} name={name}>
          {answer}
        </Fact>
      ))}
      {run.accepted.length > 0 && (
        <details className="text-small">
          <summary className="min-h-7 cursor-pointer py-1 text-soft">
            Accepted at its start: {run.accepted.length}
          </summary>
          {run.accepted.map((text) => (
            <p key={text} className="pb-1 leading-4">
              {text}
            </p>
          ))}
        </details>
      )}
    </div>
  )
}
