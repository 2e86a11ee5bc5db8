import type { CurvesPage } from '../../../api/curves'
import { figure } from '../../../ui/format'
import { fromSi, spanFromSi } from '../../../ui/units'
import { valueAt } from './tables'
import { channelNamed, isShown, useViews, type LaidRun } from './useCurves'
import type { Range } from './zooms'

interface Props {
  page: CurvesPage
  laid: readonly LaidRun[]
  range: Range
  cursors: Range
}

/** What each run reads at the cursors, and by how much it differs. */
export function CursorTable({ page, laid, range, cursors }: Props) {
  const shown = laid.filter(isShown)
  const [a, b] = cursors
  return (
    <aside
      aria-label="At the cursors"
      className="min-h-0 overflow-y-auto border-l border-rule px-3 py-2 text-small"
    >
      <table className="w-full">
        <thead>
          <tr className="border-b border-rule-strong text-right">
            <th />
            <th>A</th>
            <th>B</th>
            <th>B less A</th>
          </tr>
        </thead>
        <tbody>
          <tr className="text-right">
            <th className="text-left font-strong">
              Time <span className="font-normal text-soft">s</span>
            </th>
            <td className="figure">{figure(a, 3)}</td>
            <td className="figure">{figure(b, 3)}</td>
            <td className="figure font-strong">{figure(b - a, 3)}</td>
          </tr>
        </tbody>
        {page.channels.map((name) => (
          <OfChannel key={name} name={name} shown={shown} range={range} cursors={cursors} />
        ))}
      </table>
    </aside>
  )
}

function OfChannel(props: {
  name: string
  shown: readonly LaidRun[]
  range: Range
  cursors: Range
}) {
  const { name, shown, range, cursors } = props
  const views = useViews(shown, name, range)
  const unit = shown.map((one) => channelNamed(one, name)).find(Boolean)?.unit ?? ''
  return (
    <tbody>
      <tr>
        <th colSpan={4} className="border-t border-rule pt-2 text-left font-strong">
          {name} <span className="font-normal text-soft">{unit}</span>
        </th>
      </tr>
      {shown.map((one, i) => {
        const channel = channelNamed(one, name)
        if (!channel) return null
        const [a, b] = cursors.map((t) => valueAt(views[i] ?? [], t + one.zero!))
        const show = (v: number | null | undefined) =>
          figure(v == null ? null : fromSi(v, unit), channel.decimals)
        const apart = a == null || b == null ? null : spanFromSi(b - a, unit)
        return (
          <tr key={one.run.id} className="text-right">
            <th
              className="max-w-24 truncate text-left font-strong"
              style={{ color: `var(${one.look.colour})` }}
            >
              {one.name}
            </th>
            <td className="figure">{show(a)}</td>
            <td className="figure">{show(b)}</td>
            <td className="figure font-strong">{figure(apart, channel.decimals)}</td>
          </tr>
        )
      })}
    </tbody>
  )
}
