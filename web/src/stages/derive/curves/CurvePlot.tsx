import { Slider } from 'radix-ui'
import type uPlot from 'uplot'

import type { CurvesPage } from '../../../api/curves'
import type { PlotSegment } from '../../../api/view'
import { hatchesOf } from '../../../plots/columns'
import { padded, Plot, type Hatch } from '../../../plots/Plot'
import { figure } from '../../../ui/format'
import { beside, joined, pairTable, tableOf } from './tables'
import { channelNamed, isShown, useViews, type LaidRun } from './useCurves'
import type { Range } from './zooms'

export interface Marked {
  cursors: Range
  window: Range | null
  setCursors: (cursors: Range) => void
  setWindow: (window: Range) => void
}

interface Props {
  page: CurvesPage
  laid: readonly LaidRun[]
  name: string
  range: Range
  isLast: boolean
  nameRoom: number
  onZoom: (from: number, to: number) => void
  marked: Marked
}

/** One channel of all runs over each other: over time, distance, or another channel. */
export function CurvePlot(props: Props) {
  const { page, laid, name, range, isLast, nameRoom, onZoom, marked } = props
  const shown = laid.filter(isShown)
  const views = useViews(shown, name, range)
  const overs = useViews(page.across ? shown : [], page.across ?? '', range)
  const first = shown.map((one) => channelNamed(one, name)).find(Boolean)
  const across = shown.map((one) => channelNamed(one, page.across ?? '')).find(Boolean)
  const unit = first?.unit ?? ''
  const scale = page.speed_m_s ?? 1
  const pairs =
    across &&
    beside(shown.map((_, i) => pairTable(views[i] ?? [], overs[i] ?? [], [unit, across.unit])))
  const data = (): uPlot.AlignedData =>
    pairs ?? joined(shown.map((one, i) => tableOf(views[i] ?? [], unit, one.zero!, scale)))
  const curves = shown.map((one) => ({ name: one.name, ...one.look }))
  const missing = shown.filter((one) => one.channels.length && !channelNamed(one, name))
  const odd = shown.find((one) => {
    const c = channelNamed(one, name)
    return c && first && c.quantity !== first.quantity
  })
  if (odd)
    return (
      <p className="m-auto max-w-100 p-4 text-center text-soft">
        {name} of {odd.name} is a {channelNamed(odd, name)!.quantity}, that of the others a{' '}
        {first!.quantity}: leave one of them out.
      </p>
    )
  const named = missing.length
    ? `${unit}; ${missing.map((one) => one.name).join(', ')} has none`
    : unit
  const isTime = !across
  return (
    <div className="relative flex min-h-0 flex-1">
      <Plot
        key={`${name} ${page.across} ${unit}`}
        curves={curves.length ? curves : [{ name: '', colour: '--curve-1' }]}
        data={data}
        unordered={!isTime}
        view={`${range.join()} ${marked.window?.join() ?? ''}`}
        xRange={() => (pairs ? spanOf([pairs[0]]) : [range[0] * scale, range[1] * scale])}
        yRange={pairs ? () => spanOf(pairs.slice(1)) : undefined}
        onZoom={isTime ? (a, b) => onZoom(a / scale, b / scale) : undefined}
        hatches={isTime ? () => hatchesIn(shown, views, scale) : undefined}
        xName={across ? page.across! : page.speed_m_s ? 'Distance' : 'Time'}
        xUnit={across ? across.unit : page.speed_m_s ? 'm' : 's'}
        yName={name}
        yUnit={named}
        hideX={!isLast && isTime}
        nameRoom={nameRoom}
        label={`${name} of ${shown.length} runs`}
        overlay={isTime ? (plot) => <Marks plot={plot} scale={scale} {...marked} /> : undefined}
      />
    </div>
  )
}

/** From the least to the most of some columns, with room: they are in no order. */
function spanOf(columns: readonly ArrayLike<number | null | undefined>[]): [number, number] {
  let [low, high] = [Infinity, -Infinity]
  for (const column of columns)
    for (const v of Array.from(column))
      if (v != null) [low, high] = [Math.min(low, v), Math.max(high, v)]
  return padded(low, high)
}

/** Where some run says nothing, in the page's time. */
function hatchesIn(
  shown: readonly LaidRun[],
  views: readonly (PlotSegment[] | undefined)[],
  scale: number,
): Hatch[] {
  return shown.flatMap((one, i) =>
    hatchesOf(views[i] ?? []).map((h) => ({
      ...h,
      from: (h.from - one.zero!) * scale,
      to: (h.to - one.zero!) * scale,
    })),
  )
}

const LETTERS = ['A', 'B'] as const
const STEPS = 1000

/** Two lettered cursors and the two ends of the window: each moves by mouse and by arrows. */
function Marks(props: Marked & { plot: uPlot; scale: number }) {
  const { plot, scale, cursors, window, setCursors, setWindow } = props
  const { min, max } = plot.scales.x!
  if (min == null || max == null) return null
  const within = (v: number) => Math.max(min, Math.min(max, v * scale))
  const box = {
    left: plot.over.offsetLeft,
    top: plot.over.offsetTop,
    width: plot.over.clientWidth,
    height: plot.over.clientHeight,
  }
  const at = (v: number) => ((v - min) / (max - min)) * box.width
  const set =
    (save: (range: Range) => void) =>
    ([a, b]: number[]) =>
      save([a! / scale, b! / scale])
  const common = { min, max, step: (max - min) / STEPS }
  return (
    <>
      {window && (
        <>
          <span
            className="absolute bg-marking/15"
            style={{
              left: box.left + at(within(window[0])),
              width: at(within(window[1])) - at(within(window[0])),
              top: box.top,
              height: box.height,
            }}
          />
          <Slider.Root
            {...common}
            value={window.map(within)}
            onValueChange={set(setWindow)}
            className="pointer-events-none absolute touch-none"
            style={{ ...box, height: 1 }}
          >
            {window.map((v, i) => (
              <Line
                key={i}
                height={box.height}
                label={i ? 'End of the window' : 'Begin of the window'}
                value={v}
                className="border-marking"
              >
                <span className="absolute -top-2 -left-1.5 h-3.5 w-3 border border-ink bg-marking" />
              </Line>
            ))}
          </Slider.Root>
        </>
      )}
      <Slider.Root
        {...common}
        value={cursors.map(within)}
        onValueChange={set(setCursors)}
        className="pointer-events-none absolute touch-none"
        style={{ ...box, height: 1 }}
      >
        {cursors.map((v, i) => (
          <Line
            key={i}
            height={box.height}
            label={`Cursor ${LETTERS[i]}`}
            value={v}
            className="border-ink"
          >
            <span className="absolute top-0 -left-2 grid h-4 w-4 place-items-center rounded-xs border border-ink bg-sheet text-note font-strong">
              {LETTERS[i]}
            </span>
          </Line>
        ))}
      </Slider.Root>
    </>
  )
}

interface LineProps {
  height: number
  label: string
  value: number
  className: string
  children: React.ReactNode
}

function Line({ height, label, value, className, children }: LineProps) {
  return (
    <Slider.Thumb
      aria-label={label}
      aria-valuetext={`${figure(value, 3)} s`}
      className="pointer-events-auto block w-px cursor-ew-resize outline-none"
    >
      <span className={`absolute top-0 left-0 border-l ${className}`} style={{ height }} />
      {children}
      <span className="absolute top-0 -left-2 w-4" style={{ height: 20 }} />
    </Slider.Thumb>
  )
}
