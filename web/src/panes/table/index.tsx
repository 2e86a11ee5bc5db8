import { useReading } from '../../live/LiveProvider'
import { readablesOf, type Readable } from '../../readable'
import { figure } from '../../ui/format'
import { fromSi, spanFromSi } from '../../ui/units'
import { FigureTable } from '../FigureTable'
import type { Pane, PaneProps } from '../pane'

export const table: Pane<Record<string, never>> = {
  title: 'Table of readings',
  fits: () => true,
  room: 64,
  proposes: readablesOf,
  lacks: (_, channels) => (channels.length ? '' : 'Wire a channel, or choose one.'),
  options: {},
  Component: Table,
}

const COLUMNS = ['Now', 'Lowest', 'Highest', 'Noise, 1 s']

function Table({ channels }: PaneProps<Record<string, never>>) {
  return (
    <FigureTable label="Readings" columns={COLUMNS}>
      {channels.map((c) => (
        <Row key={c.key} channel={c} />
      ))}
    </FigureTable>
  )
}

function Row({ channel: { key, name, unit, decimals } }: { channel: Readable }) {
  const reading = useReading(key)
  const show = (v: number | undefined) => figure(v === undefined ? null : fromSi(v, unit), decimals)
  const noise = reading && Math.abs(spanFromSi(reading.deviation, unit))
  return (
    <tr className="border-b border-rule">
      <th className="py-1 pr-3 text-left font-strong">
        {name} <span className="font-normal text-soft">{unit}</span>
      </th>
      <td className={`figure py-1 pl-3 text-right ${reading?.clipped ? 'text-signal' : ''}`}>
        {reading?.clipped ? 'clipped' : show(reading?.value)}
      </td>
      <td className="figure py-1 pl-3 text-right">{show(reading?.lowest)}</td>
      <td className="figure py-1 pl-3 text-right">{show(reading?.highest)}</td>
      <td className="figure py-1 pl-3 text-right">{figure(noise, decimals + 1)}</td>
    </tr>
  )
}
