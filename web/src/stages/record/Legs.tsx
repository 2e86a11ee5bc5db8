import type { Setup } from '../../api/client'
import { commandRun } from '../../api/actions'
import type { BenchState, ProgrammeShown } from '../../live/source'
import { Button } from '../../ui/Button'
import { duration, figure } from '../../ui/format'
import { Icon } from '../../ui/Icon'

type Paper = NonNullable<Setup['paper']>

/** The legs of the programme that is under way: which are done, where it is, what a person may do. */
export function Legs({ setup, state }: { setup: Setup; state: BenchState }) {
  const { paper } = setup
  const now = state.programme
  if (!paper || !now) return null
  const command = (what: Parameters<typeof commandRun>[1]) => () =>
    void (state.run && commandRun(state.run, what))
  const over = now.leg > now.legs
  return (
    <section aria-label="Legs" className="border-b border-rule">
      <div className="bar">
        <h2>Legs</h2>
        <span className="ml-auto text-small text-soft">{standing(now)}</span>
      </div>
      <ol>
        {paper.legs.slice(0, now.legs).map((leg, i) => (
          <LegLine key={i} leg={leg} number={i + 1} now={now} />
        ))}
      </ol>
      {!over && setup.bench_id && (
        <div className="flex flex-wrap gap-1.5 px-4 py-2">
          {!now.held && !state.paused && (
            <Button size={28} onClick={command('hold')}>
              Hold here
            </Button>
          )}
          {!state.paused && (
            <Button size={28} onClick={command('skip')}>
              Skip leg
            </Button>
          )}
          {!state.paused && (
            <Button size={28} onClick={command('unload')}>
              End gently
            </Button>
          )}
        </div>
      )}
    </section>
  )
}

const standing = (now: ProgrammeShown): string =>
  now.leg > now.legs ? 'over' : now.held ? 'held' : now.waits ? 'waits for you' : 'under way'

function LegLine(props: { leg: Paper['legs'][number]; number: number; now: ProgrammeShown }) {
  const { leg, number, now } = props
  const current = number === now.leg
  const done = number < now.leg
  const instead = current && now.words !== leg.sentence // it ends gently in place of this leg
  const share =
    !current || instead
      ? null
      : leg.cycles
        ? now.cycles / leg.cycles
        : leg.seconds
          ? now.seconds / leg.seconds
          : null
  return (
    <li
      aria-current={current ? 'step' : undefined}
      className={`grid grid-cols-[22px_1fr] px-4 py-1.5 text-small leading-4 ${
        current ? 'border-l-4 border-marking bg-marking-wash pl-3' : ''
      } ${done ? '' : current ? '' : 'text-soft'}`}
    >
      <span aria-hidden className={done ? 'text-moss' : ''}>
        <Icon name={done ? 'tick' : current ? 'next' : 'open'} size={14} />
      </span>
      <span>
        <b className="font-strong">{number}.</b> {current ? now.words : leg.sentence}
        {current && share !== null && (
          <span className="mt-1 block h-2 border border-rule-strong bg-sheet" aria-hidden>
            <span
              className="block h-full bg-ink"
              style={{ width: `${Math.min(1, share) * 100}%` }}
            />
          </span>
        )}
        {current && (
          <span className="figure mt-0.5 block">
            {now.round != null && `round ${now.round}, `}
            {leg.cycles && !instead
              ? `${figure(now.cycles, 0)} of ${figure(leg.cycles, 0)} cycles`
              : leg.seconds && !instead
                ? `${duration(now.seconds)} of ${duration(leg.seconds)}`
                : duration(now.seconds)}
          </span>
        )}
        {current && now.commanded && (
          <span className="block text-soft">
            size held: told{' '}
            <span className="figure">{now.commanded.map((n) => figure(n, 0)).join(' to ')}</span> N
          </span>
        )}
      </span>
    </li>
  )
}
