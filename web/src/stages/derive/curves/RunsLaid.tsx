import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import type { Run } from '../../../api/client'
import { projectRunsQuery, type CurvesPage, type DrawnRun } from '../../../api/curves'
import { EditableNumber, EditableText } from '../../../ui/Editable'
import { Icon } from '../../../ui/Icon'
import { SearchField } from '../../../ui/SearchField'
import type { LaidRun } from './useCurves'

const MAX_RUNS = 24

interface Props {
  project: number
  page: CurvesPage
  laid: readonly LaidRun[]
  change: (page: Partial<CurvesPage>) => void
}

/** Which runs lie over each other, how far each is moved, and which of them do not count. */
export function RunsLaid({ project, page, laid, change }: Props) {
  const [chosen, choose] = useState<number | null>(null)
  const shown = laid.filter((one) => one.drawn.shown ?? true).length
  const set = (run: number, more: Partial<DrawnRun>) =>
    change({ runs: page.runs.map((one) => (one.run === run ? { ...one, ...more } : one)) })
  return (
    <section className="col" aria-label="Runs">
      <div className="bar">
        <h2>Runs</h2>
        <span className="text-small text-soft">
          {shown} of {laid.length} shown
        </span>
      </div>
      <ul className="min-h-24 flex-1 overflow-y-auto">
        {laid.map((one) => (
          <li key={one.run.id} className="border-b border-rule px-3 py-1.5">
            <Laid
              one={one}
              isOpen={chosen === one.run.id}
              onOpen={() => choose(chosen === one.run.id ? null : one.run.id)}
              set={(more) => set(one.run.id, more)}
              onRemove={() => change({ runs: page.runs.filter((r) => r.run !== one.run.id) })}
            />
          </li>
        ))}
        {laid.length === 0 && (
          <li className="p-4 text-small text-soft">
            Find runs below and lay them over each other.
          </li>
        )}
      </ul>
      <Browse
        project={project}
        taken={page.runs.map((r) => r.run)}
        onTake={(run) =>
          change({ runs: [...page.runs, { run, shown: true, shift_s: 0, left_out: '', name: '' }] })
        }
      />
    </section>
  )
}

interface LaidProps {
  one: LaidRun
  isOpen: boolean
  onOpen: () => void
  set: (more: Partial<DrawnRun>) => void
  onRemove: () => void
}

function Laid({ one, isOpen, onOpen, set, onRemove }: LaidProps) {
  const { drawn, look, name, problem, run } = one
  const isOut = !!drawn.left_out
  return (
    <>
      <div className="flex items-center gap-2">
        <input
          type="checkbox"
          aria-label={`Show ${name}`}
          checked={drawn.shown ?? true}
          onChange={(e) => set({ shown: e.target.checked })}
        />
        <svg width="26" height="8" aria-hidden className="flex-none">
          <path
            d="M0 4H26"
            stroke={`var(${look.colour})`}
            strokeWidth="2"
            strokeDasharray={look.dash?.join(' ')}
          />
        </svg>
        <button
          type="button"
          aria-expanded={isOpen}
          onClick={onOpen}
          className={`min-w-0 flex-1 truncate text-left font-strong ${isOut ? 'text-soft line-through' : ''}`}
        >
          {name}
        </button>
        <button
          type="button"
          aria-label={`Take ${name} away`}
          onClick={onRemove}
          className="grid size-6 flex-none place-items-center text-soft hover:text-ink"
        >
          <Icon name="cross" size={11} />
        </button>
      </div>
      {(run.state === 'recording' || isOut || problem) && (
        <p className={`pl-6 text-small leading-4 ${problem ? 'text-signal' : 'text-soft'}`}>
          {problem || (isOut ? `left out: ${drawn.left_out}` : 'still recording')}
        </p>
      )}
      {isOpen && (
        <div className="pl-6">
          <EditableNumber
            label="Moved by"
            value={drawn.shift_s ?? 0}
            unit="s"
            decimals={3}
            onSave={async (shift_s) => set({ shift_s })}
          />
          <EditableText
            label="Called"
            value={name}
            onSave={async (text) => set({ name: text.trim().slice(0, 80) })}
          />
          <EditableText
            label="Left out because"
            value={drawn.left_out ?? ''}
            onSave={async (text) => set({ left_out: text.trim().slice(0, 120) })}
          />
          <p className="py-1 text-small leading-4 text-soft">
            {run.specimen}, {run.started_at.slice(0, 10)}, setup version {run.setup_version},{' '}
            {run.state}
          </p>
        </div>
      )}
    </>
  )
}

interface BrowseProps {
  project: number
  taken: readonly number[]
  onTake: (run: number) => void
}

/** Runs of all setups of the project, found by their words. */
function Browse({ project, taken, onTake }: BrowseProps) {
  const [search, setSearch] = useState('')
  const found = useQuery(projectRunsQuery(project, search)).data
  const free = (found?.items ?? []).filter((run) => !taken.includes(run.id))
  const full = taken.length >= MAX_RUNS
  return (
    <div className="flex max-h-[45%] flex-none flex-col border-t border-rule-strong">
      <div className="p-2">
        <SearchField
          label="Find runs"
          placeholder="Name, specimen, state, setup"
          value={search}
          onChange={setSearch}
          className="w-full"
        />
      </div>
      <ul className="min-h-0 flex-1 overflow-y-auto pb-1" aria-label="Runs that may be added">
        {free.map((run) => (
          <li key={run.id}>
            <button
              type="button"
              disabled={full}
              onClick={() => onTake(run.id)}
              className="block w-full px-3 py-1 text-left text-small leading-4 hover:bg-paper"
            >
              <b className="font-number">{run.name}</b>{' '}
              <span className="text-soft">{words(run)}</span>
            </button>
          </li>
        ))}
      </ul>
      {full && <p className="px-3 py-1 text-small text-soft">A page holds {MAX_RUNS} runs.</p>}
    </div>
  )
}

const words = (run: Run) => `${run.specimen}, ${run.started_at.slice(0, 10)}, ${run.state}`
