import { NavLink } from 'react-router'

import type { Setup } from '../api/client'
import { useBenchState } from '../live/LiveProvider'

export const STAGES = ['wire', 'calibrate', 'record', 'derive', 'report'] as const
export type Stage = (typeof STAGES)[number]
export const STAGE_NAMES: Record<Stage, string> = {
  wire: 'Wire',
  calibrate: 'Calibrate',
  record: 'Record',
  derive: 'Derive',
  report: 'Report',
}

export type Progress = 'hollow' | 'part' | 'done' | 'running'
interface Station {
  figure: string
  note: string
  progress: Progress
}

export const part = (count: number, of: number): Progress =>
  count === 0 ? 'hollow' : count < of ? 'part' : 'done'

/** What each stage has got to, from what the setup holds. */
export function stations(setup: Setup, recording: boolean): Record<Stage, Station> {
  const wired = setup.channels.length
  const toMend = setup.channels.filter((c) => c.check && !c.check.old && !c.check.passed).length
  const zeroed = setup.channels.filter((c) => c.zero !== null || !c.takes_zero).length
  return {
    wire: {
      figure: `${wired}`,
      note: toMend ? `${toMend} to mend` : wired === 1 ? 'input wired' : 'inputs wired',
      progress: !wired ? 'hollow' : toMend ? 'part' : 'done',
    },
    calibrate: {
      figure: `${zeroed}/${wired}`,
      note: zeroed === wired ? 'all zeroed' : `${wired - zeroed} to zero`,
      progress: wired ? part(zeroed, wired) : 'hollow',
    },
    record: {
      figure: `${setup.runs}`,
      note: recording ? 'is running' : setup.runs === 1 ? 'run' : 'runs',
      progress: recording ? 'running' : setup.runs ? 'done' : 'hollow',
    },
    derive: {
      figure: `${setup.results}`,
      note: setup.results === 1 ? 'result' : 'results',
      progress: setup.runs ? part(setup.results, setup.runs) : 'hollow',
    },
    report: {
      figure: `${setup.reports}`,
      note: setup.reports === 1 ? 'report' : 'reports',
      progress: setup.runs ? part(setup.reports, setup.runs) : 'hollow',
    },
  }
}

/** The five stages as stations of one line, each with what it has got to. */
export function Line({ setup }: { setup: Setup }) {
  const recording = useBenchState()?.phase === 'recording'
  const all = stations(setup, recording)
  const issues = setup.preflight
  return (
    <nav aria-label="Stages" className="relative flex flex-col border-r border-rule bg-paper">
      <Rail stations={all} />
      {STAGES.map((stage) => (
        <NavLink
          key={stage}
          to={`/setups/${setup.id}/${stage}`}
          className={({ isActive }) =>
            `relative block h-23 flex-none pt-4 pl-8 ${
              isActive
                ? 'bg-sheet shadow-[1px_0_0_var(--sheet)] before:absolute before:inset-y-0 before:left-0 before:w-0.75 before:bg-petrol'
                : ''
            }`
          }
        >
          {({ isActive }) => (
            <>
              <span
                className={`block text-body leading-4 ${isActive ? 'font-bold text-petrol' : 'font-semibold'}`}
                style={{ fontStretch: '92%' }}
              >
                {STAGE_NAMES[stage]}
              </span>
              <span className="figure block text-body font-medium">{all[stage].figure}</span>
              <span
                className="block text-note leading-3.25 text-soft"
                style={{ fontStretch: '88%' }}
              >
                {all[stage].note}
              </span>
            </>
          )}
        </NavLink>
      ))}
      <div className="mt-auto border-t border-rule py-2 pl-2.5 text-small leading-3.75">
        <b className="block font-strong">Preflight</b>
        {issues.length ? (
          <NavLink
            to={`/setups/${setup.id}/${issues[0]!.stage}`}
            title={issues.map((g) => g.text).join('\n')}
            className="font-strong text-signal underline underline-offset-2"
          >
            {issues.length} {issues.length === 1 ? 'issue' : 'issues'}
          </NavLink>
        ) : (
          <span className="font-strong text-moss">No issues</span>
        )}
      </div>
    </nav>
  )
}

const HEIGHT = 92
const centre = (i: number) => i * HEIGHT + 24

function Rail({ stations: all }: { stations: Record<Stage, Station> }) {
  return (
    <svg
      className="pointer-events-none absolute top-0 left-0 z-10"
      width="32"
      height={HEIGHT * 5}
      aria-hidden
    >
      <path d={`M18 ${centre(0)}V${centre(4)}`} stroke="var(--rule-strong)" />
      {STAGES.slice(1).map(
        (stage, i) =>
          all[STAGES[i]!].progress === 'done' && (
            <path
              key={stage}
              d={`M18 ${centre(i)}V${centre(i + 1)}`}
              stroke="var(--petrol)"
              strokeWidth="3"
            />
          ),
      )}
      {STAGES.map((stage, i) => (
        <g key={stage} transform={`translate(18,${centre(i)})`}>
          <Dot progress={all[stage].progress} />
        </g>
      ))}
    </svg>
  )
}

/** A station: not begun, begun, done, or under way. */
export function Dot({ progress }: { progress: Progress }) {
  if (progress === 'done')
    return (
      <>
        <circle r="7" fill="var(--petrol)" />
        <path
          d="M-3.400 .2l2.400 2.500 4.400-5"
          fill="none"
          stroke="var(--on-petrol)"
          strokeWidth="1.7"
        />
      </>
    )
  if (progress === 'part')
    return (
      <>
        <circle r="6.2" fill="var(--sheet)" stroke="var(--petrol)" strokeWidth="1.6" />
        <path d="M0 0V-4.400A4.400 4.400 0 1 1 -4.400 0Z" fill="var(--petrol)" />
      </>
    )
  if (progress === 'running')
    return (
      <>
        <circle r="7" fill="var(--marking)" stroke="var(--ink)" strokeWidth="1.2" />
        <circle r="2.6" fill="var(--on-marking)" />
      </>
    )
  return <circle r="5.5" fill="var(--paper)" stroke="var(--rule-strong)" strokeWidth="1.4" />
}
