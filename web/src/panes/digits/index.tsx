import { insideOf } from '../../bench-strip/BenchStrip'
import { useReading } from '../../live/LiveProvider'
import { readablesOf, type Readable } from '../../readable'
import { ComputedSign, InputSign } from '../../ui/Diamond'
import { figure } from '../../ui/format'
import { Reading } from '../../ui/Reading'
import { fromSi } from '../../ui/units'
import type { Pane, PaneProps } from '../pane'

/** `held`: the largest figures are those of now, or the lowest or highest since they were reset. */
type Options = { held: 'now' | 'lowest' | 'highest' }

const SAID = { now: '', lowest: 'lowest', highest: 'highest' } as const

/** Readings to be read from two metres. */
export function Digits({ channels, options }: Pick<PaneProps<Options>, 'channels' | 'options'>) {
  return (
    <div className="min-h-0 flex-1 overflow-auto" tabIndex={0} role="group" aria-label="Readings">
      {channels.map((c) => (
        <LargeReading key={c.key} channel={c} held={options.held} />
      ))}
    </div>
  )
}

export const digits: Pane<Options> = {
  title: 'Digits',
  fits: () => true,
  room: 64,
  proposes: (setup) => {
    const all = readablesOf(setup) // what is computed first
    return [...all.filter((c) => c.computed), ...all.filter((c) => c.measured)]
  },
  lacks: (_, channels) => (channels.length ? '' : 'Wire a channel, or choose one.'),
  options: { held: 'now' },
  fields: () => [
    {
      name: 'held',
      label: 'Large figures',
      choices: [
        ['now', 'now'],
        ['lowest', 'lowest'],
        ['highest', 'highest'],
      ],
    },
  ],
  Component: Digits,
}

function LargeReading({ channel, held }: { channel: Readable; held: Options['held'] }) {
  const { key, name, unit, decimals, measured: c } = channel
  const reading = useReading(key)
  const show = (v: number | undefined) => figure(v === undefined ? null : fromSi(v, unit), decimals)
  const value = held === 'now' ? reading?.value : reading?.[held]
  return (
    <div className="border-b border-rule px-3.5 py-2">
      <div className="flex items-center gap-1.5">
        {c ? (
          <InputSign signal={c.signal} size={14} active={c.active_arms} inside={insideOf(c)} />
        ) : (
          <ComputedSign size={14} />
        )}
        <b className="font-strong">{name}</b>
        <span className="text-small text-soft">{SAID[held]}</span>
        <span className="figure ml-auto text-small text-soft">
          {show(reading?.lowest)} <span className="font-sans">to</span> {show(reading?.highest)}
        </span>
      </div>
      <div className="grid grid-cols-[1fr_64px] items-baseline gap-2">
        <span className={`text-right ${reading?.clipped ? 'text-signal' : ''}`}>
          {reading?.clipped ? (
            <b className="text-clipped leading-11.5 font-strong">clipped</b>
          ) : (
            <Reading className="text-reading leading-11.5 font-number" text={show(value)} />
          )}
        </span>
        <span className="text-large text-soft">{unit}</span>
      </div>
    </div>
  )
}
