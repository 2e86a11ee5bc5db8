import { Link } from 'react-router'

import type { SetupLine } from '../api/projects'
import { Dot, part, STAGE_NAMES, STAGES, type Progress, type Stage } from '../frame/Line'

interface Station {
  figure: string
  note: string
  progress: Progress
}

const counted = (count: number, one: string) => (count === 1 ? one : `${one}s`)

/** What each stage of a setup has got to, from its line. */
function stations(s: SetupLine): Record<Stage, Station> {
  const zeroed = s.channels - s.to_zero
  return {
    wire: {
      figure: `${s.channels}`,
      note: counted(s.channels, 'channel'),
      progress: s.channels ? 'done' : 'hollow',
    },
    calibrate: {
      figure: `${zeroed}/${s.channels}`,
      note: s.to_zero ? `${s.to_zero} to zero` : s.channels ? 'all zeroed' : 'nothing yet',
      progress: s.channels ? part(zeroed, s.channels) : 'hollow',
    },
    record: {
      figure: `${s.runs}`,
      note: s.recording ? 'is running' : counted(s.runs, 'run'),
      progress: s.recording ? 'running' : s.runs ? 'done' : 'hollow',
    },
    derive: {
      figure: `${s.results}`,
      note: s.stale ? `${s.stale} stale` : counted(s.results, 'result'),
      progress: s.stale ? 'part' : s.results ? 'done' : 'hollow',
    },
    report: {
      figure: `${s.reports}`,
      note: counted(s.reports, 'report'),
      progress: s.reports ? 'done' : 'hollow',
    },
  }
}

/** A setup's line, lying flat: the five stages with what each has got to. */
export function Stations({ setup }: { setup: SetupLine }) {
  const all = stations(setup)
  return (
    <nav
      aria-label={`Stages of ${setup.name}`}
      className="relative grid grid-cols-5 text-center text-small leading-4"
    >
      <svg className="absolute inset-x-0 top-0 h-4 w-full" aria-hidden>
        <path d="M0 0" />
        <line x1="10%" x2="90%" y1="8" y2="8" stroke="var(--rule-strong)" />
        {STAGES.slice(1).map(
          (stage, i) =>
            all[STAGES[i]!].progress === 'done' && (
              <line
                key={stage}
                x1={`${10 + 20 * i}%`}
                x2={`${30 + 20 * i}%`}
                y1="8"
                y2="8"
                stroke="var(--petrol)"
                strokeWidth="3"
              />
            ),
        )}
      </svg>
      {STAGES.map((stage) => (
        <Link
          key={stage}
          to={`/setups/${setup.id}/${stage}`}
          aria-label={`${STAGE_NAMES[stage]}: ${all[stage].figure} ${all[stage].note}`}
          className="relative rounded pb-0.5 hover:bg-paper"
        >
          <svg width="16" height="16" viewBox="-8 -8 16 16" className="mx-auto" aria-hidden>
            <Dot progress={all[stage].progress} />
          </svg>
          <span className="figure block text-body font-medium">{all[stage].figure}</span>
          <span
            className={`block text-note leading-3.25 ${setup.stale && stage === 'derive' ? 'text-marking-ink' : 'text-soft'}`}
          >
            {all[stage].note}
          </span>
        </Link>
      ))}
    </nav>
  )
}
