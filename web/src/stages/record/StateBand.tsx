import { useRuns } from '../../api/queries'
import type { StageContext } from '../../frame/stage'
import { useConnection } from '../../live/LiveProvider'
import { isBusy, type BenchState } from '../../live/source'
import { standingOf } from '../../live/standing'
import { BANDS, SIGNS } from '../../live/standingLook'
import { duration, figure } from '../../ui/format'

const MOTION: Record<string, string> = {
  RAMP: 'Pulling',
  FORCE: 'Loading',
  SINE: 'Cycling',
  PLAY: 'Playing',
  RETURN: 'Returning',
  HOLD: 'Holding',
  TRIPPED: 'Stopped at a limit',
}

/** What is happening, in words and colour. */
export function StateBand({ state, context }: { state: BenchState | null; context: StageContext }) {
  const { setup } = context
  const runs = useRuns(setup.id).rows
  const last = runs?.at(-1)
  const recording = state?.phase === 'recording'
  const arriving = useConnection() === 'live'
  const alarm = recording ? alarmOf(state, arriving) : ''
  const away = setup.preflight.some((g) => g.code === 'actuator_not_home')
  const issues = setup.preflight.length
  const ready = !setup.preflight.some((g) => g.blocks)
  const open = issues ? `Ready, ${issues} open` : 'Ready'
  const idleWords = ready ? open : away && !state?.latched ? 'Return first' : 'Not ready'
  const busy = isBusy(state)
  const [words, standing] = state && busy ? standingOf(state) : ['', null]
  const legs = state?.programme && state.programme.legs > 1 ? state.programme : null
  return (
    <section
      aria-label="State"
      className={`flex h-14 flex-none items-center gap-9 px-5 whitespace-nowrap ${
        standing ? BANDS[standing] : 'border-b border-rule bg-paper'
      }`}
    >
      <span className="flex items-center gap-3">
        <span
          aria-hidden
          className={`size-4 flex-none ${
            standing
              ? SIGNS[standing]
              : ready
                ? `rounded-full border-2 ${issues ? 'border-marking' : 'border-moss'}`
                : 'rotate-45 border-2 border-signal'
          }`}
        />
        <h1 className="text-state! font-heavy" style={{ fontStretch: '108%' }}>
          {words || idleWords}
        </h1>
      </span>
      <Item name="Run" words={runWords(state, setup.next_run_name)} />
      {state?.motion && !legs && (
        <Item
          name="Actuator"
          words={MOTION[state.motion] ?? state.motion}
          figure={`${figure((state.position_m ?? 0) * 1e3, 2)} mm`}
        />
      )}
      {recording && state.waiting && <Item yields name="Waits until" words={state.waiting} />}
      {recording && legs && (
        <Item
          yields
          name={legs.leg > legs.legs ? 'All legs are done' : `Leg ${legs.leg} of ${legs.legs}`}
          words={legs.held || legs.words}
        />
      )}
      {recording && state.cycles != null && <Cycles state={state} />}
      {!recording && last && (
        <div className="min-w-0 leading-4.5">
          <span className="block text-small opacity-80">Last: {last.name}</span>
          <b className="block truncate font-strong" title={last.ended_because}>
            {[last.state, last.ended_because].filter(Boolean).join(': ')}
          </b>
        </div>
      )}
      {alarm && (
        <b
          role="alert"
          title={alarm}
          className="min-w-0 truncate rounded bg-signal px-2 py-1 font-strong text-on-signal"
        >
          {alarm}
        </b>
      )}
      <span className="ml-auto flex gap-9">
        {recording && !state.waiting && (
          <Item name="Elapsed" figure={duration(state.elapsed_s)} big />
        )}
        {state?.free_bytes != null && (
          <Item name="Space left" figure={`${figure(state.free_bytes / 1e9, 0)} GB`} big />
        )}
        <Item name="Backlog" figure={`${figure(state?.backlog_s ?? 0, 1)} s`} big />
      </span>
    </section>
  )
}

const runWords = (state: BenchState | null, next: string): string =>
  state?.phase !== 'recording' ? `next: ${next}` : state.dry ? 'nothing is kept' : state.run_name

const LATE_S = 1

/** What a person at a running test must know at once; empty if there is nothing. */
function alarmOf(state: BenchState, arriving: boolean): string {
  if (!arriving) return 'No samples arrive'
  const devices = Object.entries(state.devices)
  const absent = devices.filter(([, d]) => d.why_not).map(([label]) => label)
  if (absent.length) return `${absent.join(', ')} sends no samples`
  if (state.stopped_because) return `Actuator stopped: ${state.stopped_because}`
  const late = devices.find(([, d]) => (d.age_s ?? 0) > LATE_S)
  return late ? `${late[0]} is ${figure(late[1].age_s, 1)} s behind` : ''
}

/** Cycles done, and between which forces the last one held. */
function Cycles({ state }: { state: BenchState }) {
  const kilo = (force: number | null) => figure(force === null ? null : force / 1e3, 3)
  return (
    <>
      <Item name="Cycles" figure={figure(state.cycles, 0)} big />
      <Item name="Last one, kN" figure={`${kilo(state.held_low)} to ${kilo(state.held_high)}`} />
    </>
  )
}

/** `yields`: its words are cut where there is no room for all. */
function Item(props: {
  name: string
  words?: string
  figure?: string
  big?: boolean
  yields?: boolean
}) {
  return (
    <span className={`leading-4.5 ${props.yields ? 'min-w-16 flex-1' : ''}`}>
      <span className="block text-small opacity-80">{props.name}</span>
      {props.words && (
        <b
          title={props.yields ? props.words : undefined}
          className={`font-strong ${props.yields ? 'block truncate' : ''}`}
        >
          {props.words}{' '}
        </b>
      )}
      {props.figure && (
        <span className={`figure ${props.big ? 'text-title' : ''}`}>{props.figure}</span>
      )}
    </span>
  )
}
