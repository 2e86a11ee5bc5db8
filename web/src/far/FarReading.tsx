import type { Setup } from '../api/client'
import { insideOf } from '../bench-strip/BenchStrip'
import { rangeOf, shareOf } from '../kinds/guards/range'
import { useReading } from '../live/LiveProvider'
import type { BenchState } from '../live/source'
import type { Readable } from '../readable'
import { ComputedSign, InputSign } from '../ui/Diamond'
import { figure } from '../ui/format'
import { Icon } from '../ui/Icon'
import { Reading } from '../ui/Reading'
import { fromSi } from '../ui/units'

interface Props {
  of: Readable
  setup: Setup
  state: BenchState | null
  large?: boolean
}

/** A channel, its reading, and where that is between its guards. */
export function FarReading({ of: channel, setup, state, large }: Props) {
  const { key, name, unit, decimals, measured } = channel
  const reading = useReading(key)
  const at = setup.guards.findIndex((g) => g.channel === key && 'lowest' in g)
  const beyond = state?.tripped.includes(at) ?? false
  const show = (v: number | undefined) => figure(v === undefined ? null : fromSi(v, unit), decimals)
  return (
    <section
      aria-label={name}
      className={`flex min-h-0 min-w-0 flex-1 flex-col border-l border-rule px-6 py-3 first:border-l-0 ${
        large ? 'flex-[3]' : ''
      } ${beyond ? 'bg-signal-wash' : ''}`}
    >
      <div className="flex items-center gap-3 text-large">
        {measured ? (
          <InputSign
            signal={measured.signal}
            size={30}
            active={measured.active_arms}
            inside={insideOf(measured)}
          />
        ) : (
          <ComputedSign size={30} />
        )}
        <b className="truncate font-heavy" style={{ fontSize: large ? 32 : 26, lineHeight: 1.3 }}>
          {name}
        </b>
        {large && state?.phase === 'recording' && <Inside setup={setup} state={state} />}
        <span className="figure ml-auto text-soft" style={{ fontSize: 22 }}>
          {show(reading?.lowest)} <span className="font-sans">to</span> {show(reading?.highest)}
        </span>
      </div>
      <div className="flex min-h-0 flex-1 items-center justify-center gap-5 whitespace-nowrap">
        <span style={{ fontSize: large ? 'min(27vh, 17vw)' : 'min(17vh, 8vw)', lineHeight: 1 }}>
          {reading?.clipped ? (
            <b className="font-heavy text-signal">clipped</b>
          ) : (
            <Reading
              className={`font-strong ${beyond ? 'text-signal' : ''}`}
              text={show(reading?.value)}
            />
          )}
        </span>
        <span className="text-soft" style={{ fontSize: large ? '7vh' : '5vh' }}>
          {unit}
        </span>
      </div>
      {at >= 0 && (
        <Between
          guard={setup.guards[at]!}
          unit={unit}
          value={reading?.value}
          spread={[reading?.lowest, reading?.highest]}
          beyond={beyond}
        />
      )}
    </section>
  )
}

/** Whether all guards have their channels inside. */
function Inside({ setup, state }: { setup: Setup; state: BenchState }) {
  const many = setup.guards.length
  const beyond = state.tripped.length
  if (!many) return null
  return (
    <span
      className={`ml-6 flex items-center gap-2 font-strong ${beyond ? 'text-signal' : 'text-moss'}`}
      style={{ fontSize: 22 }}
    >
      <Icon name={beyond ? 'warn' : 'tick'} size={22} />
      {beyond ? `${beyond} of ${many} guards beyond` : `All ${many} guards inside`}
    </span>
  )
}

/** The range between two limits, where the reading has been, and where it is. */
function Between(props: {
  guard: Setup['guards'][number]
  unit: string
  value: number | undefined
  spread: readonly [number | undefined, number | undefined]
  beyond: boolean
}) {
  const { guard, unit, value, spread, beyond } = props
  const ends = guard as { lowest?: number | null; highest?: number | null }
  const [low, high] = rangeOf(ends.lowest, ends.highest)
  const place = (v: number | undefined): number | null =>
    v === undefined || !Number.isFinite(v) ? null : shareOf(v, low, high)
  const words = (v: number | null | undefined) =>
    v == null ? '' : String(+fromSi(v, unit).toPrecision(3)).replace('-', '−')
  const [from, to] = spread.map(place)
  const now = place(value)
  const tone = beyond ? 'var(--signal)' : 'var(--moss)'
  return (
    <div className="flex flex-none items-center gap-2 pb-1 text-large">
      <span className="figure">{words(ends.lowest)}</span>
      <svg
        viewBox="0 0 1000 40"
        preserveAspectRatio="none"
        className="h-9 min-w-0 flex-1"
        aria-hidden
      >
        <line x1="0" x2="1000" y1="14" y2="14" stroke="var(--rule-strong)" strokeWidth="2" />
        {from != null && to != null && (
          <rect
            x={from * 1000}
            y="7"
            width={Math.max(2, (to - from) * 1000)}
            height="14"
            fill={tone}
            opacity="0.4"
          />
        )}
        <line x1="2" x2="2" y1="4" y2="24" stroke="currentColor" strokeWidth="4" />
        <line x1="998" x2="998" y1="4" y2="24" stroke="currentColor" strokeWidth="4" />
        {now !== null && (
          <path
            d={`M${now * 1000},22l9,16h-18Z`}
            fill={beyond ? 'var(--signal)' : 'currentColor'}
          />
        )}
      </svg>
      <span className="figure">{words(ends.highest)}</span>
    </div>
  )
}
