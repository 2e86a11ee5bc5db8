import type { Setup } from '../api/client'
import { useBenchState, useConnection } from '../live/LiveProvider'
import type { BenchState, Phase } from '../live/source'
import { standingOf } from '../live/standing'
import { duration, figure } from '../ui/format'

const DOING: Record<Phase, string> = {
  'taking up': 'The recorder starts',
  idle: 'Not recording',
  arming: 'Settings are confirmed',
  beginning: 'A run begins',
  recording: 'Recording',
  closing: 'The run is closed',
  measuring: 'Channels are measured',
  shunting: 'Shunts are checked',
  checking: 'Wiring is checked',
}

/** How the recording stands, in a few words. */
function progress(state: BenchState, arriving: boolean): string {
  const away = Object.entries(state.devices).filter(([, device]) => device.why_not)
  if (away.length && arriving)
    return `${away.map(([label]) => label).join(', ')} is away: it keeps the last minute`
  if (!arriving) return 'No samples arrive: the amplifiers keep the last minute'
  if (state.missing_blocks) return `${state.missing_blocks} blocks are missing`
  return 'No sample is missing'
}

function trouble(state: BenchState): string {
  const left = state.queue_left_s === null ? '' : `, room for ${duration(state.queue_left_s)} more`
  return `The database takes no samples${left}: ${state.trouble}`
}

/** What is happening, in words: recording or not, elapsed, space left, backlog. */
export function RunState({ setup }: { setup: Setup }) {
  const state = useBenchState()
  const arriving = useConnection() === 'live'
  const recording = state?.phase === 'recording'
  const next = setup.preflight[0]?.text ?? `Next: ${setup.next_run_name}`
  return (
    <div className="min-w-0 overflow-hidden px-3.5 pt-1.75">
      <div className="flex items-center gap-2">
        {recording && <span className="size-3 flex-none rounded-full bg-petrol" aria-hidden />}
        <b className="truncate text-lead leading-5 font-heavy">
          {recording ? standingOf(state)[0] : DOING[state?.phase ?? 'idle']}{' '}
          {recording && !state.dry && state.run_name}
        </b>
        {recording && (
          <span className="figure ml-auto font-number">{duration(state.elapsed_s)}</span>
        )}
      </div>
      <p
        className={`truncate text-small leading-4.25 ${state?.trouble ? 'font-strong text-signal' : 'text-soft'}`}
      >
        {state?.trouble ? trouble(state) : recording ? progress(state, arriving) : next}
      </p>
      <p className="flex gap-3.5 text-small leading-4.25 text-soft">
        {state?.free_bytes != null && (
          <span>
            Space <span className="figure text-ink">{figure(state.free_bytes / 1e9, 0)}</span> GB
          </span>
        )}
        <span>
          Backlog <span className="figure text-ink">{figure(state?.backlog_s ?? 0, 1)}</span> s
        </span>
      </p>
    </div>
  )
}
