import { useQuery } from '@tanstack/react-query'
import { useState, type ReactNode } from 'react'

import type { Schemas, Setup } from '../api/client'
import { restoreVersion } from '../api/actions'
import { keepTemplate } from '../api/projects'
import { revisionsQuery, useMay } from '../api/queries'
import { useStage } from '../frame/stage'
import { Button } from '../ui/Button'
import { clock } from '../ui/format'
import { attempt, say } from '../ui/notices'
import { UndoRedo } from '../stages/wire/ChannelInspector'
import { row } from '../ui/row'

type Revision = Schemas['RevisionOut']

/** Every version of the setup, what each changed, and the way back to it. */
export function Versions({ view }: { view: ReactNode }) {
  const { setup } = useStage()
  const may = useMay('change scaling')
  const [before, page] = useState<number | undefined>(undefined)
  const revisions = useQuery(revisionsQuery(setup.id, setup.version, before)).data ?? []
  const oldest = revisions.at(-1)?.number ?? 1
  const [chosen, choose] = useState<number | null>(null)
  const shown = revisions.find((r) => r.number === chosen) ?? revisions[0]
  return (
    <div className="grid h-full grid-cols-[360px_1fr]">
      <section className="col" aria-label="Versions">
        <div className="bar">{view}</div>
        <ul className="min-h-0 flex-1 overflow-y-auto">
          {revisions.map((r) => (
            <li key={r.number}>
              <button
                type="button"
                aria-pressed={r.number === shown?.number}
                onClick={() => choose(r.number)}
                className={row({
                  chosen: r.number === shown?.number,
                  className:
                    'grid w-full grid-cols-[36px_1fr_auto] gap-x-2 border-b border-rule px-4 py-1.5 text-left',
                })}
              >
                <span className="figure text-soft">{r.number}</span>
                <b className="truncate font-strong" title={r.action}>
                  {r.action}
                </b>
                <span className="figure text-small text-soft">{clock(r.at)}</span>
                <span className="col-start-2 text-small text-soft">
                  {r.at.slice(0, 10)}
                  {r.actor && `, ${r.actor}`}
                </span>
              </button>
            </li>
          ))}
        </ul>
        <div className="flex flex-none gap-2 border-t border-rule bg-paper px-4 py-2">
          {oldest > 1 && <Button onClick={() => page(oldest)}>Older versions</Button>}
          {before !== undefined && <Button onClick={() => page(undefined)}>The newest</Button>}
        </div>
      </section>
      {shown && (
        <section className="col" aria-label={`Version ${shown.number}`}>
          <div className="bar">
            <h1>Version {shown.number}</h1>
            <span className="truncate text-soft">{shown.action}</span>
            <UndoRedo setup={setup} />
          </div>
          <div className="min-h-0 flex-1 overflow-auto">
            <Changed revision={shown} />
          </div>
          <div className="flex flex-none items-center gap-3 border-t border-rule bg-paper px-4 py-2">
            {shown.number !== setup.version && may && (
              <Button
                look="go"
                size={36}
                onClick={() => void restoreVersion(setup.id, shown.number)}
              >
                Bring back version {shown.number}
              </Button>
            )}
            <a
              className="inline-flex h-9 items-center rounded border border-rule-strong bg-sheet px-4 font-number"
              href={`/api/setups/${setup.id}/revisions/${shown.number}/file`}
            >
              Export it as a file
            </a>
            {may && shown.number === setup.version && <KeepTemplate setup={setup} />}
            <span className="text-soft">
              {shown.number === setup.version
                ? 'in force now'
                : 'zeros, tares and checks stay as they are'}
            </span>
          </div>
        </section>
      )}
    </div>
  )
}

/** A setup as it stands now, to begin others with. */
function KeepTemplate({ setup }: { setup: Setup }) {
  const [name, setName] = useState<string | null>(null)
  if (name === null)
    return (
      <Button size={36} onClick={() => setName(setup.name)}>
        Keep it as a template
      </Button>
    )
  const keep = async () => {
    if (!(await attempt(keepTemplate(setup.id, name).then(() => true)))) return
    say(`${name} is a template: new setups can begin with it`)
    setName(null)
  }
  return (
    <form
      className="flex items-center gap-2"
      onSubmit={(e) => {
        e.preventDefault()
        void keep()
      }}
    >
      <input
        aria-label="Name of the template"
        autoFocus
        value={name}
        maxLength={80}
        onChange={(e) => setName(e.target.value)}
        onKeyDown={(e) => e.key === 'Escape' && setName(null)}
        className="h-9 w-45 rounded border border-rule-strong bg-sheet px-2.5"
      />
      <Button size={36} type="submit">
        Keep
      </Button>
    </form>
  )
}

function Changed({ revision }: { revision: Revision }) {
  if (!revision.changed.length)
    return <p className="p-4 text-soft">Nothing that is set differs from the version before.</p>
  return (
    <table className="grid-table">
      <thead>
        <tr>
          <th className="pl-4!">Channel</th>
          <th>What</th>
          <th>Before</th>
          <th>After</th>
        </tr>
      </thead>
      <tbody>
        {revision.changed.map((c, i) => (
          <tr key={i} className="h-7">
            <td className="pl-4!">
              <b className="font-strong">{c.subject || 'The setup'}</b>
            </td>
            <td>{c.field}</td>
            <td className="max-w-65 truncate text-soft" title={c.before}>
              {c.before && <s>{c.before}</s>}
            </td>
            <td className="max-w-65 truncate" title={c.after}>
              {c.after}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}
