import type { Setup } from '../../api/client'
import { GUARDS } from '../../kinds/guards'
import { rangeOf, shareOf } from '../../kinds/guards/range'
import { formOf, type Guard } from '../../kinds/form'
import { useReading } from '../../live/LiveProvider'
import { readablesOf, type Readable } from '../../readable'
import { figure } from '../../ui/format'
import { fromSi } from '../../ui/units'

const SAID: Record<string, string> = {
  hold: 'holds',
  unload: 'unloads',
  stop: 'ends the run',
  warn: 'warns',
}

/** Each guard with its channel between its limits; `beyond` is known only while a run records. */
export function GuardBars(props: { setup: Setup; beyond: readonly number[] | null }) {
  const { setup, beyond } = props
  const channels = readablesOf(setup)
  if (setup.guards.length === 0) return null
  return (
    <section
      aria-label="Guards"
      className="max-h-44 flex-none overflow-y-auto border-t border-rule"
    >
      <div className="flex items-baseline px-3.5 pt-2 pb-1">
        <h2>Guards</h2>
        <span
          role="status"
          className={`ml-auto text-small font-strong ${
            beyond === null ? 'text-soft' : beyond.length ? 'text-signal' : 'text-moss'
          }`}
        >
          {beyond === null
            ? 'look while a run records'
            : beyond.length
              ? `${beyond.length} of ${setup.guards.length} beyond`
              : `All ${setup.guards.length} inside`}
        </span>
      </div>
      {setup.guards.map((guard, i) => (
        <Bar
          key={i}
          guard={guard}
          channel={channels.find((c) => c.key === guard.channel)}
          beyond={beyond?.includes(i) ?? false}
        />
      ))}
    </section>
  )
}

function Bar(props: { guard: Guard; channel?: Readable; beyond: boolean }) {
  const { guard, channel, beyond } = props
  const reading = useReading(guard.channel)
  const name = <span className="truncate font-strong">{channel?.name ?? 'no longer wired'}</span>
  const does = <span className="text-right">{SAID[guard.action ?? 'hold']}</span>
  const tone = beyond ? 'text-signal' : ''
  const ends = 'lowest' in guard ? [guard.lowest, guard.highest] : null
  if (!ends || !channel)
    return (
      <div className={`grid grid-cols-[64px_minmax(0,1fr)_72px] px-3.5 py-0.5 text-small ${tone}`}>
        {name}
        <span className="text-soft">{formOf(GUARDS, guard.kind!).label}</span>
        {does}
      </div>
    )
  const shown = (v: number | null | undefined) =>
    v == null ? '' : String(+fromSi(v, channel.unit).toPrecision(3)).replace('-', '−')
  const value = reading && Number.isFinite(reading.value) ? reading.value : null
  return (
    <div
      className={`grid grid-cols-[64px_minmax(0,1fr)_72px] items-center px-3.5 py-0.5 text-small ${tone}`}
    >
      {name}
      <span className="flex items-center gap-1">
        <span className="figure w-11 text-right">{shown(ends[0])}</span>
        <Scale low={ends[0] ?? null} high={ends[1] ?? null} value={value} beyond={beyond} />
        <span className="figure w-11">{shown(ends[1])}</span>
        <span className="sr-only">
          now {figure(value === null ? null : fromSi(value, channel.unit), channel.decimals)}
        </span>
      </span>
      {does}
    </div>
  )
}

/** Where a value is between two limits. */
function Scale(props: {
  low: number | null
  high: number | null
  value: number | null
  beyond: boolean
}) {
  const { low, high, value, beyond } = props
  const [from, to] = rangeOf(low, high)
  const share = value === null ? null : shareOf(value, from, to)
  return (
    <svg viewBox="0 0 60 12" className="h-3 min-w-0 flex-1" aria-hidden preserveAspectRatio="none">
      <line x1="1" x2="59" y1="6" y2="6" stroke="var(--rule-strong)" />
      {low !== null && <line x1="1" x2="1" y1="1" y2="11" stroke="currentColor" strokeWidth="2" />}
      {high !== null && (
        <line x1="59" x2="59" y1="1" y2="11" stroke="currentColor" strokeWidth="2" />
      )}
      {share !== null && (
        <rect
          x={1 + share * 54}
          y="2.5"
          width="4"
          height="7"
          fill={beyond ? 'var(--signal)' : 'var(--moss)'}
        />
      )}
    </svg>
  )
}
