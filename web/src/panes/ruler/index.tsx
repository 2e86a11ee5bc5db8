import { useReading } from '../../live/LiveProvider'
import { fullScale, readablesOf, type Readable } from '../../readable'
import type { Setup } from '../../api/client'
import { figure } from '../../ui/format'
import { Reading } from '../../ui/Reading'
import { fromSi } from '../../ui/units'
import { endsOf } from '../ends'
import type { Pane, PaneOptions, PaneProps } from '../pane'
import { Ruler } from './Ruler'

/** `aim`: the value that is wanted, in the channel's unit. */
type Options = { aim: number | null }

export const ruler: Pane<Options> = {
  title: 'Ruler dial',
  fits: () => true,
  room: 4,
  proposes: (setup) => readablesOf(setup).slice(0, 1),
  lacks: (_, channels) => (channels.length ? '' : 'Choose a channel.'),
  options: { aim: null },
  fields: (_, [first]) => [
    { name: 'low x', label: 'From', unit: first?.unit ?? '', decimals: 2, mayBeEmpty: true },
    { name: 'high x', label: 'To', unit: first?.unit ?? '', decimals: 2, mayBeEmpty: true },
    { name: 'aim', label: 'Wanted', unit: first?.unit ?? '', decimals: 2, mayBeEmpty: true },
  ],
  Component: Rulers,
}

function Rulers({ setup, channels, options }: PaneProps<Options>) {
  return (
    <div className="flex min-h-0 flex-1 flex-col justify-evenly overflow-y-auto px-4 py-2">
      {channels.map((c) => (
        <Dial key={c.key} channel={c} setup={setup} options={options} />
      ))}
    </div>
  )
}

/** From where to where a channel is drawn: as typed, else by its guards, else what it can read. */
export function spanOf(setup: Setup, channel: Readable, options: PaneOptions): [number, number] {
  const [low, high] = endsOf(options, 'x')
  const limits = limitsOf(setup, channel)
  const scale = channel.measured ? Math.abs(fromSi(fullScale(channel.measured), channel.unit)) : 0
  const most =
    Math.max(...limits.map(Math.abs), 0) * 1.1 || (Number.isFinite(scale) ? scale : 0) || 1
  const isSigned = limits.some((v) => v < 0) || limits.length === 0
  return [low ?? (isSigned ? -most : 0), high ?? most]
}

/** Where guards look at a channel, in its unit. */
const limitsOf = (setup: Setup, { key, unit }: Readable): number[] =>
  setup.guards.flatMap((g) =>
    'lowest' in g && g.channel === key
      ? [g.lowest, g.highest].flatMap((v) => (v == null ? [] : [fromSi(v, unit)]))
      : [],
  )

function Dial(props: { channel: Readable; setup: Setup; options: Options }) {
  const { channel, setup, options } = props
  const { key, name, unit, decimals } = channel
  const reading = useReading(key)
  const show = (v: number | undefined) => figure(v === undefined ? null : fromSi(v, unit), decimals)
  const shown = (v: number | undefined) =>
    v === undefined || !Number.isFinite(v) ? null : fromSi(v, unit)
  return (
    <div className="min-h-22">
      <div className="flex items-baseline gap-2">
        <b className="font-strong">{name}</b>
        <Reading
          className="ml-auto text-reading leading-11 font-number"
          text={show(reading?.value)}
        />
        <span className="w-14 text-large text-soft">{unit}</span>
      </div>
      <Ruler
        span={spanOf(setup, channel, options as PaneOptions)}
        value={shown(reading?.value)}
        lowest={shown(reading?.lowest)}
        highest={shown(reading?.highest)}
        guards={limitsOf(setup, channel)}
        aim={options.aim}
        label={`${name} ${show(reading?.value)} ${unit}`}
      />
    </div>
  )
}
