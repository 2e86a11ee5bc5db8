import { Link, useNavigate } from 'react-router'

import {
  archiveProject,
  changeProject,
  deleteSetup,
  duplicateProject,
  duplicateSetup,
  type Project,
  type SetupLine,
} from '../api/projects'
import { useMay } from '../api/queries'
import { Button } from '../ui/Button'
import { ConfirmedButton } from '../ui/ConfirmedButton'
import { EditableText } from '../ui/Editable'
import { Fact } from '../ui/Fact'
import { day } from '../ui/format'
import { attempt } from '../ui/notices'
import { LatestCurve } from './LatestCurve'
import { Stations } from './Stations'

interface Props {
  project: Project
  chosen: boolean
  /** The one whose next action is filled. */
  pressing: boolean
  setup: SetupLine | undefined
  onChoose: (setup: number | null) => void
  onNewSetup: () => void
}

export const ROW = 'grid grid-cols-[264px_minmax(0,1fr)_212px_216px]'

/** A project: its setups, how far the chosen one is, its latest curve, and what comes next. */
export function ProjectRow({ project, chosen, pressing, setup, onChoose, onNewSetup }: Props) {
  return (
    <li className={`${ROW} border-b border-rule-strong bg-sheet ${chosen ? 'shadow-chosen' : ''}`}>
      <div className={`border-r border-rule px-4 py-3 ${chosen ? 'bg-marking-wash' : ''}`}>
        <button type="button" className="block w-full text-left" onClick={() => onChoose(null)}>
          <h2 className="text-large leading-5">{project.name}</h2>
          <span className="block text-small leading-4 text-soft">
            {[project.article, project.standard].filter(Boolean).join(', ')}
          </span>
        </button>
        <ul className="mt-2">
          {project.setups.map((s) => (
            <li key={s.id} className="flex items-center border-t border-rule text-small">
              <button
                type="button"
                aria-pressed={s.id === setup?.id}
                onClick={() => onChoose(s.id)}
                className="grid min-h-6 flex-1 grid-cols-[14px_1fr_auto] items-center text-left"
              >
                <span aria-hidden className="text-petrol">
                  {s.id === setup?.id && (
                    <svg width="8" height="8">
                      <path d="M0 0L7 4L0 8Z" fill="currentColor" />
                    </svg>
                  )}
                </span>
                <span className={s.id === setup?.id ? 'font-name' : 'text-soft'}>{s.name}</span>
                <span className="text-soft">
                  version <span className="figure text-ink">{s.version}</span>
                </span>
              </button>
              <Link
                to={`/setups/${s.id}/${s.next.stage}`}
                aria-label={`Open ${s.name}`}
                className="flex-none pl-3 font-number text-petrol underline underline-offset-2"
              >
                open
              </Link>
            </li>
          ))}
        </ul>
        {chosen && <Actions project={project} setup={setup} onNewSetup={onNewSetup} />}
      </div>
      <div className="px-4 py-3">
        {setup ? (
          <Progress setup={setup} />
        ) : (
          <p className="text-soft">
            No setup yet: it says which channels, motion and end a test has.
          </p>
        )}
      </div>
      <div className="border-x border-rule px-3.5 py-2">
        {setup?.last_run && <LatestCurve run={setup.last_run} />}
      </div>
      <div className="flex flex-col gap-2 px-4 py-3">
        {setup ? (
          <Next setup={setup} filled={pressing} />
        ) : (
          <Button look={pressing ? 'go' : 'plain'} size={36} onClick={onNewSetup}>
            Add a setup
          </Button>
        )}
      </div>
    </li>
  )
}

function Progress({ setup }: { setup: SetupLine }) {
  const run = setup.last_run
  return (
    <>
      <Stations setup={setup} />
      <div className="mt-2">
        {run && (
          <Fact name="Last run">
            {run.name}, {run.state} <span className="figure pl-2">{day(run.started_at)}</span>
          </Fact>
        )}
        <Fact name="Stale">
          {setup.stale ? (
            <b className="font-strong text-marking-ink">
              {setup.stale} {setup.stale === 1 ? 'result' : 'results'}
            </b>
          ) : (
            'none'
          )}
        </Fact>
      </div>
    </>
  )
}

function Next({ setup, filled }: { setup: SetupLine; filled: boolean }) {
  const go = useNavigate()
  return (
    <>
      <p className="text-small leading-4">{setup.next.reason}</p>
      <Button
        look={filled ? 'go' : 'plain'}
        size={36}
        onClick={() => void go(`/setups/${setup.id}/${setup.next.stage}`)}
      >
        {setup.next.action}
      </Button>
      <p className="mt-auto text-small leading-4">
        <b className="font-strong">{setup.bench_name}</b>{' '}
        <span className="text-soft">{setup.on_bench ? 'works with it' : 'works with another'}</span>
      </p>
    </>
  )
}

function Actions({
  project,
  setup,
  onNewSetup,
}: {
  project: Project
  setup: SetupLine | undefined
  onNewSetup: () => void
}) {
  const may = useMay('arrange projects')
  const archived = project.archived_at !== null
  const save = (name: string) => (value: string) => changeProject(project.id, { [name]: value })
  return (
    <div className="mt-2">
      {(
        [
          ['Name', 'name'],
          ['Article', 'article'],
          ['Customer', 'customer'],
          ['Standard', 'standard'],
        ] as const
      ).map(([label, field]) => (
        <EditableText
          key={field}
          label={label}
          value={project[field]}
          disabled={!may}
          onSave={save(field)}
        />
      ))}
      {may && (
        <div className="mt-2 flex flex-wrap gap-1.5">
          <Button size={24} onClick={onNewSetup}>
            New setup
          </Button>
          {setup && (
            <Button size={24} onClick={() => void attempt(duplicateSetup(setup.id))}>
              Duplicate {setup.name}
            </Button>
          )}
          {setup && !setup.last_run && (
            <ConfirmedButton
              action={`Delete ${setup.name}`}
              warning="It goes with its channels and versions; it has no runs."
              onConfirm={() => void attempt(deleteSetup(setup.id))}
            />
          )}
          <Button size={24} onClick={() => void attempt(duplicateProject(project.id))}>
            Duplicate project
          </Button>
          <Button size={24} onClick={() => void attempt(archiveProject(project.id, archived))}>
            {archived ? 'Take out of the archive' : 'Archive'}
          </Button>
        </div>
      )}
    </div>
  )
}
