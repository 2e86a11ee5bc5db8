import { useQuery } from '@tanstack/react-query'

import { windowQuery, type CurvesPage, type WindowFound, type WindowRow } from '../../../api/curves'
import { Segments } from '../../../ui/Fact'
import { EditableNumber } from '../../../ui/Editable'
import { figure } from '../../../ui/format'
import { Icon } from '../../../ui/Icon'
import { fromSi, spanFromSi, spanToSi } from '../../../ui/units'
import { channelNamed, isShown, type LaidRun } from './useCurves'
import type { Range } from './zooms'

interface Props {
  page: CurvesPage
  laid: readonly LaidRun[]
  window: Range
  change: (page: Partial<CurvesPage>) => void
}

const FIGURES = ['lowest', 'highest', 'mean', 'rms', 'deviation', 'slope'] as const
const TITLES = ['Lowest', 'Highest', 'Mean', 'RMS', 'Deviation', 'Slope']
const SPANS: ReadonlySet<string> = new Set(['deviation', 'slope'])

/** Statistics of one channel of all runs within the window, and over the runs that count. */
export function WindowTable({ page, laid, window, change }: Props) {
  const shown = laid.filter(isShown)
  const of = page.window_of || page.channels[0] || ''
  const windows = shown
    .filter((one) => channelNamed(one, of))
    .map((one) => ({
      run: one.run.id,
      from_s: window[0] + one.zero!,
      to_s: window[1] + one.zero!,
    }))
  const versions = shown.map((one) => one.run.readings).join()
  const leftOut = shown.filter((one) => one.drawn.left_out).map((one) => one.run.id)
  const found = useQuery(windowQuery(windows, of, leftOut, versions)).data
  const rows = found?.rows ?? []
  const channel = shown.map((one) => channelNamed(one, of)).find(Boolean)
  const unit = channel?.unit ?? ''
  const decimals = (channel?.decimals ?? 2) + 1
  const show = (name: (typeof FIGURES)[number], v: number | null | undefined) =>
    figure(v == null ? null : SPANS.has(name) ? spanFromSi(v, unit) : fromSi(v, unit), decimals)
  return (
    <section
      aria-label="Window"
      className="flex max-h-60 flex-none flex-col border-t border-rule-strong"
    >
      <div className="flex h-9 flex-none items-center gap-3 px-4">
        <h2>Window</h2>
        <span className="figure text-small">
          {figure(window[0], 3)} <span className="font-sans">to</span> {figure(window[1], 3)} s
        </span>
        {page.channels.length > 1 && (
          <Segments
            label="Channel of the table"
            options={page.channels.map((name) => [name, name] as const)}
            value={of}
            onChange={(window_of) => change({ window_of })}
          />
        )}
        <span className="ml-auto w-60">
          <EditableNumber
            label="Slope at most"
            value={page.slope_at_most == null ? null : spanFromSi(page.slope_at_most, unit)}
            unit={`${unit}/s`}
            decimals={decimals}
            onSave={async (v) => change({ slope_at_most: Math.abs(spanToSi(v, unit)) })}
            onClear={async () => change({ slope_at_most: null })}
          />
        </span>
      </div>
      <div className="min-h-0 overflow-auto px-4 pb-2">
        <table className="w-full text-small whitespace-nowrap">
          <thead>
            <tr className="border-b border-rule-strong text-right">
              <th className="text-left">Run</th>
              {TITLES.map((title) => (
                <th key={title} className="pl-3">
                  {title}{' '}
                  <span className="font-normal text-soft">
                    {title === 'Slope' ? `${unit}/s` : unit}
                  </span>
                </th>
              ))}
              <th className="pl-4 text-left">Verdict</th>
            </tr>
          </thead>
          <tbody>
            {shown.map((one) => {
              const row = rows.find((r) => r.run === one.run.id)
              if (!row) return null
              return (
                <tr
                  key={one.run.id}
                  className={`border-b border-rule text-right ${one.drawn.left_out ? 'text-soft' : ''}`}
                >
                  <th
                    className="max-w-50 truncate py-0.5 text-left font-strong"
                    style={{ color: `var(${one.look.colour})` }}
                  >
                    {one.name}
                  </th>
                  {row.problem ? (
                    <td colSpan={7} className="pl-3 text-left text-signal">
                      {row.problem}
                    </td>
                  ) : (
                    <>
                      {FIGURES.map((name) => (
                        <td key={name} className="figure pl-3">
                          {show(name, row[name])}
                        </td>
                      ))}
                      <td className="pl-4 text-left">
                        <Verdict
                          row={row}
                          most={page.slope_at_most ?? null}
                          leftOut={one.drawn.left_out ?? ''}
                          say={(v) => `${show('slope', v)} ${unit}/s`}
                        />
                      </td>
                    </>
                  )}
                </tr>
              )
            })}
          </tbody>
          {found && found.counted > 1 && <Together found={found} show={show} />}
        </table>
      </div>
    </section>
  )
}

interface VerdictProps {
  row: WindowRow
  most: number | null
  leftOut: string
  say: (value: number) => string
}

function Verdict({ row, most, leftOut, say }: VerdictProps) {
  if (leftOut) return <>left out, not counted</>
  if (most === null || row.slope == null) return row.left_out ? <>{row.left_out} clipped</> : null
  const beyond = Math.abs(row.slope) - most
  return beyond > 0 ? (
    <span className="flex items-center gap-1.5 font-strong text-signal">
      <Icon name="cross" size={12} /> {say(beyond)} too steep
    </span>
  ) : (
    <span className="flex items-center gap-1.5 text-moss">
      <Icon name="tick" size={12} /> meets
    </span>
  )
}

interface TogetherProps {
  found: WindowFound
  show: (name: (typeof FIGURES)[number], v: number | null) => string
}

/** Mean and coefficient of variation over the runs that count. */
function Together({ found, show }: TogetherProps) {
  const columns = FIGURES.map((name) => found.over.find((one) => one.figure === name))
  return (
    <tfoot className="border-t border-rule-strong">
      <tr className="text-right font-strong">
        <th className="text-left">Mean of {found.counted}</th>
        {columns.map((c, i) => (
          <td key={FIGURES[i]} className="figure pl-3">
            {show(FIGURES[i]!, c?.mean ?? null)}
          </td>
        ))}
        <td />
      </tr>
      <tr className="text-right">
        <th className="text-left font-normal">Variation, %</th>
        {columns.map((c, i) => (
          <td key={FIGURES[i]} className="figure pl-3">
            {figure(c?.deviation && c.mean ? Math.abs((100 * c.deviation) / c.mean) : null, 1)}
          </td>
        ))}
        <td />
      </tr>
    </tfoot>
  )
}
