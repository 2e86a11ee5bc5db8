import type { ColumnDef } from '@tanstack/react-table'
import type { ReactNode } from 'react'

import type { Channel } from '../../../api/client'
import { insideOf } from '../../../bench-strip/BenchStrip'
import { factorOf } from '../../../kinds/scalings'
import { useReading } from '../../../live/LiveProvider'
import { InputSign } from '../../../ui/Diamond'
import { figure } from '../../../ui/format'
import { fromSi, signalUnit } from '../../../ui/units'
import { brokenSides, inForce } from '../../../kinds/inputs/drawing/marks'
import type { InputLine, Line } from './rows'

export interface GridColumn {
  id: string
  title: string
  width: number
  right?: boolean
  /** Whether its cells can be edited; the server knows the column by its id. */
  edited?: boolean
  /** The cell as text, as it is copied and edited. */
  text: (line: InputLine) => string
  show?: (line: InputLine) => ReactNode
}

const number = (value: number | undefined, decimals?: number): string =>
  value === undefined ? '' : decimals === undefined ? `${value}` : value.toFixed(decimals)

const bridge = (c?: Channel) => (c && 'lead_length_m' in c.wiring ? c.wiring : undefined)
const set = (c?: Channel) => (c && 'excitation_v' in c.conditioning ? c.conditioning : undefined)

/** A figure with its unit in soft ink, for a column whose figures stand under each other. */
const withUnit = (text: string, unit: string): ReactNode =>
  text && (
    <>
      <span className="figure">{text}</span> <span className="text-soft">{unit}</span>
    </>
  )

export const COLUMNS: readonly GridColumn[] = [
  {
    id: 'input',
    title: 'Input',
    width: 58,
    text: (l) => l.label,
    show: (l) => <span className="figure text-soft">{l.label}</span>,
  },
  { id: 'sign', title: '', width: 34, text: () => '', show: (l) => <Sign line={l} /> },
  {
    id: 'name',
    title: 'Channel',
    width: 92,
    edited: true,
    text: (l) => l.channel?.name ?? '',
    show: (l) => <b className="font-strong">{l.channel?.name}</b>,
  },
  {
    id: 'sensor',
    title: 'Sensor',
    width: 98,
    edited: true,
    text: (l) => l.channel?.sensor.serial ?? '',
  },
  { id: 'kind', title: 'Kind', width: 92, text: (l) => l.channel?.sensor.kind ?? '' },
  {
    id: 'circuit',
    title: 'Circuit, wires',
    width: 104,
    text: (l) => (l.channel ? l.channel.connection_short : ''),
  },
  {
    id: 'factor',
    title: 'Factor, output',
    width: 98,
    right: true,
    text: (l) => (l.channel ? factorOf(l.channel) : ''),
  },
  {
    id: 'resistance',
    title: 'Resistance',
    width: 78,
    right: true,
    edited: true,
    text: (l) => number(bridge(l.channel)?.resistance_ohm),
    show: (l) => withUnit(number(bridge(l.channel)?.resistance_ohm), 'Ω'),
  },
  {
    id: 'excitation',
    title: 'Excitation',
    width: 70,
    right: true,
    edited: true,
    text: (l) => number(set(l.channel)?.excitation_v),
    show: (l) => withUnit(number(set(l.channel)?.excitation_v, 1), 'V'),
  },
  {
    id: 'range',
    title: 'Range',
    width: 84,
    right: true,
    edited: true,
    text: (l) => number(set(l.channel)?.range_mv_v),
    show: (l) => {
      const text = number(set(l.channel)?.range_mv_v)
      return withUnit(text && `±${text}`, 'mV/V')
    },
  },
  {
    id: 'lead',
    title: 'Lead, m',
    width: 60,
    right: true,
    edited: true,
    text: (l) => number(bridge(l.channel)?.lead_length_m, 2),
    show: (l) => <span className="figure">{number(bridge(l.channel)?.lead_length_m, 2)}</span>,
  },
  {
    id: 'sense',
    title: 'Sign',
    width: 74,
    text: (l) =>
      l.channel
        ? `${bridge(l.channel) ? 'tension' : 'more'} ${l.channel.polarity === 'as wired' ? '+' : '−'}`
        : '',
  },
  {
    id: 'recorded',
    title: 'Recorded',
    width: 62,
    edited: true,
    text: (l) => (l.channel ? (l.channel.recorded ? 'on' : 'off') : ''),
    show: (l) => l.channel && <Contact on={l.channel.recorded} />,
  },
  {
    id: 'raw',
    title: 'Raw now',
    width: 108,
    right: true,
    text: () => '',
    show: (l) => l.channel && <Raw channel={l.channel} />,
  },
  {
    id: 'noise',
    title: 'Noise, rms',
    width: 112,
    right: true,
    text: (l) => inForceFinding(l, 'Noise, rms'),
  },
]

/** Hidden at first: what does not fit beside the check at the usual size. */
export const HIDDEN_AT_FIRST = { kind: false, noise: false }

function inForceFinding({ channel }: InputLine, name: string): string {
  const check = channel && inForce(channel)
  return check?.findings.find((f) => f.name === name)?.value ?? ''
}

function Sign({ line: { channel, signal } }: { line: InputLine }) {
  return (
    <InputSign
      signal={signal}
      size={14}
      active={channel?.active_arms ?? []}
      inside={channel ? insideOf(channel) : 'none'}
      broken={channel && brokenSides(channel)}
    />
  )
}

/** A contact on a line: closed while runs record the channel, open with its word when not. */
function Contact({ on }: { on: boolean }) {
  return (
    <span className={`inline-flex items-center gap-1 ${on ? '' : 'text-marking-ink'}`}>
      <svg width="22" height="12" aria-hidden="true" stroke="currentColor" strokeWidth="1.6">
        <path d={on ? 'M1 8H21' : 'M1 8H7M15 8H21M7 8L14 2'} fill="none" />
        <circle cx="7" cy="8" r="1.8" fill="currentColor" stroke="none" />
        <circle cx="15" cy="8" r="1.8" fill="currentColor" stroke="none" />
      </svg>
      {on ? 'on' : 'off'}
    </span>
  )
}

function Raw({ channel }: { channel: Channel }) {
  const reading = useReading(channel.key)
  const unit = signalUnit(channel.signal)
  if (reading?.clipped) return <b className="font-strong text-signal">clipped</b>
  return withUnit(figure(reading && fromSi(reading.raw, unit), 4), unit)
}

/** The columns as the table library takes them. */
export const tableColumns: ColumnDef<Line>[] = COLUMNS.map((c) => ({
  id: c.id,
  size: c.width,
  accessorFn: (line) => (line.kind === 'input' ? c.text(line) : ''),
}))
export const columnOf = (id: string): GridColumn => COLUMNS.find((c) => c.id === id)!
