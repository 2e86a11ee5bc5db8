import type { Setup } from '../../api/client'
import { useReading } from '../../live/LiveProvider'
import { readablesOf, type Readable } from '../../readable'
import { figure } from '../../ui/format'
import { fromSi } from '../../ui/units'
import { lookOf } from '../colours'
import type { Pane, PaneProps } from '../pane'
import { spanOf } from '../ruler'

export const bars: Pane<Record<string, never>> = {
  title: 'Bars',
  fits: () => true,
  room: 64,
  proposes: readablesOf,
  lacks: (_, channels) => (channels.length ? '' : 'Wire a channel, or choose one.'),
  options: {},
  Component: Bars,
}

/** Each channel as a bar from zero, with its lowest and highest. */
function Bars({ setup, channels }: PaneProps<Record<string, never>>) {
  return (
    <div
      className="min-h-0 flex-1 overflow-y-auto px-3.5 py-2"
      tabIndex={0}
      role="group"
      aria-label="Bars"
    >
      {channels.map((c) => (
        <Bar key={c.key} channel={c} setup={setup} />
      ))}
    </div>
  )
}

function Bar({ channel, setup }: { channel: Readable; setup: Setup }) {
  const { key, name, unit, decimals } = channel
  const reading = useReading(key)
  const [low, high] = spanOf(setup, channel, {})
  const at = (v: number) => 100 * Math.min(1, Math.max(0, (v - low) / (high - low || 1)))
  const shown = (v: number | undefined) =>
    v === undefined || !Number.isFinite(v) ? null : fromSi(v, unit)
  const value = shown(reading?.value)
  return (
    <div className="grid min-h-7 grid-cols-[72px_minmax(0,1fr)_96px_44px] items-center gap-2 text-small">
      <b className="truncate font-strong">{name}</b>
      <svg viewBox="0 0 100 14" preserveAspectRatio="none" className="h-4 w-full" aria-hidden>
        <rect x="0" y="1" width="100" height="12" fill="var(--well)" />
        {value !== null && (
          <rect
            x={Math.min(at(0), at(value))}
            y="1"
            width={Math.max(0.5, Math.abs(at(value) - at(0)))}
            height="12"
            fill={`var(${lookOf(setup, key).colour})`}
          />
        )}
        {[shown(reading?.lowest), shown(reading?.highest)].map(
          (v, i) =>
            v !== null && (
              <path
                key={i}
                d={`M${at(v)} 0v14`}
                stroke="var(--ink)"
                strokeWidth="1.5"
                vectorEffect="non-scaling-stroke"
              />
            ),
        )}
        <path d={`M${at(0)} 0v14`} stroke="var(--rule-strong)" vectorEffect="non-scaling-stroke" />
      </svg>
      <span className={`figure text-right ${reading?.clipped ? 'text-signal' : ''}`}>
        {reading?.clipped ? 'clipped' : figure(value, decimals)}
      </span>
      <span className="text-soft">{unit}</span>
    </div>
  )
}
