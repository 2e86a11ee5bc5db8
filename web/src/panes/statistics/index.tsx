import { useReading } from '../../live/LiveProvider'
import type { WindowName } from '../../live/source'
import { readablesOf, type Readable } from '../../readable'
import { figure } from '../../ui/format'
import { fromSi, spanFromSi } from '../../ui/units'
import { FigureTable } from '../FigureTable'
import type { Pane, PaneProps } from '../pane'

type Options = { window: WindowName }

export const statistics: Pane<Options> = {
  title: 'Statistics over a window',
  fits: () => true,
  room: 64,
  proposes: readablesOf,
  lacks: (_, channels) => (channels.length ? '' : 'Wire a channel, or choose one.'),
  options: { window: '10' },
  fields: () => [
    {
      name: 'window',
      label: 'Over the last',
      choices: [
        ['10', '10 s'],
        ['60', '60 s'],
      ],
    },
  ],
  Component: Statistics,
}

const COLUMNS = ['Mean', 'Deviation', 'RMS', 'Lowest', 'Highest', 'Peak to peak']

/** What the recorder makes of the last seconds, the same on every screen. */
function Statistics({ channels, options }: PaneProps<Options>) {
  return (
    <FigureTable label={`Last ${options.window} s`} columns={COLUMNS}>
      {channels.map((c) => (
        <Row key={c.key} channel={c} window={options.window} />
      ))}
    </FigureTable>
  )
}

function Row({ channel, window }: { channel: Readable; window: WindowName }) {
  const { key, name, unit, decimals } = channel
  const found = useReading(key)?.windows[window]
  const at = (v: number) => figure(fromSi(v, unit), decimals)
  const span = (v: number) => figure(Math.abs(spanFromSi(v, unit)), decimals + 1)
  const cells = found
    ? [
        at(found.mean),
        span(found.deviation),
        at(Math.hypot(found.mean, found.deviation)),
        at(found.lowest),
        at(found.highest),
        span(found.highest - found.lowest),
      ]
    : COLUMNS.map(() => '–')
  return (
    <tr className="border-b border-rule">
      <th className="py-1 pr-3 text-left font-strong">
        {name} <span className="font-normal text-soft">{unit}</span>
      </th>
      {cells.map((text, i) => (
        <td key={COLUMNS[i]} className="figure py-1 pl-3 text-right">
          {text}
        </td>
      ))}
    </tr>
  )
}
