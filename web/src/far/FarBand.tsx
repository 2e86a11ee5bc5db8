import type { Setup } from '../api/client'
import { useConnection } from '../live/LiveProvider'
import { isBusy, type BenchState } from '../live/source'
import { standingOf } from '../live/standing'
import { BANDS, SIGNS } from '../live/standingLook'
import { duration, figure } from '../ui/format'

/** The state in words that carry, how far it is, and since when. */
export function FarBand({ state, setup }: { state: BenchState | null; setup: Setup }) {
  const live = useConnection() === 'live'
  const [words, standing] = state && isBusy(state) ? standingOf(state) : ['', null]
  const ready = !setup.preflight.some((g) => g.blocks)
  const legs = state?.programme
  return (
    <header
      className={`flex h-24 flex-none items-center gap-8 px-6 text-large leading-7 ${
        standing ? BANDS[standing] : 'border-b border-rule-strong bg-paper'
      }`}
    >
      <span
        aria-hidden
        className={`size-9 flex-none ${standing ? SIGNS[standing] : ready ? 'rounded-full border-4 border-moss' : 'rotate-45 border-4 border-signal'}`}
      />
      <h1 className="font-heavy" style={{ fontSize: 'min(7vh, 4.4vw)', lineHeight: 1 }}>
        {!live ? 'No connection' : words || (ready ? 'Ready' : 'Not ready')}
      </h1>
      <span className="min-w-0" style={{ fontSize: 22 }}>
        {legs && (
          <span className="block truncate">
            Leg {Math.min(legs.leg, legs.legs)} of {legs.legs}
            {legs.held ? `: ${legs.held}` : ''}
          </span>
        )}
        {state?.cycles != null && (
          <span className="block">
            Cycles <span className="figure">{figure(state.cycles, 0)}</span>
          </span>
        )}
      </span>
      {state?.phase === 'recording' && (
        <span className="ml-auto whitespace-nowrap" style={{ fontSize: 22 }}>
          {state.run_name}, elapsed <span className="figure">{duration(state.elapsed_s ?? 0)}</span>
        </span>
      )}
    </header>
  )
}
