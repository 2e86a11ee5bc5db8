import { useEffect, useRef, useState, type ReactNode } from 'react'
import uPlot from 'uplot'

import { envelopePaths } from './envelope'
import { everyPoint } from './everyPoint'
import { drawMarks, type Mark } from './marks'
import { token, useTheme } from '../ui/theme'
import { figure } from '../ui/format'
import { spread } from './spread'

/** The one wrap round the charting library: ruler ticks, paper colours, names at curve ends. */

export interface Curve {
  name: string
  colour: string // a CSS variable of the tokens
  dash?: number[]
  width?: number
  /** Lowest and highest of a bin follow each other: drawn as what lies between. */
  envelope?: boolean
  /** Each sample a dot, none joined. */
  dots?: boolean
  /** Drawn by the right axis. */
  right?: boolean
}

export interface PlotProps {
  curves: readonly Curve[]
  xName: string
  xUnit: string
  yName: string
  yUnit: string
  /** What stands at the right axis, where some curve is drawn by it. */
  rightName?: string
  rightUnit?: string
  /** Columns: x, then y of each curve. Read when `source` says so, or when it changes. */
  data: () => uPlot.AlignedData
  /** Rises when there is new data; plots redraw at most once a frame. */
  subscribe?: (redraw: () => void) => () => void
  xRange?: () => [number, number]
  yRange?: (low: number, high: number) => [number, number]
  /** Decades of the same height; what is not above nothing is not drawn. */
  logY?: boolean
  /** X-Y curves double back, so they are drawn in the order they came. */
  unordered?: boolean
  draw?: (plot: uPlot) => void
  /** Where nothing can be drawn: samples are missing, or clipped at the converter's rail. */
  hatches?: () => readonly Hatch[]
  /** Named instants; their words stand in the plot that `namesMarks`. */
  marks?: () => readonly Mark[]
  namesMarks?: boolean
  onZoom?: (from: number, to: number) => void
  /** Whatever the ranges depend on beside the data: it is drawn again when this changes. */
  view?: string
  label: string
  hideX?: boolean
  /** Room right of the plot for curve names, in letters; alike in stacked plots. */
  nameRoom?: number
  /** What is drawn upwards is named right of the plot, not above it: more plots fit. */
  nameBeside?: boolean
  /** What lies over the plot: handles and words, placed by the plot's own scales. */
  overlay?: (plot: uPlot) => ReactNode
}

export interface Hatch {
  readonly from: number
  readonly to: number
  readonly why: 'missing' | 'clipped'
}

const LOG = 3 // uPlot's name of a scale by decades
const HATCH = 6 // px between its lines
const MIN_HATCH = 3 // px, so that a short one is seen

/** Slanting lines where the curve says nothing, in signal red where it clipped. */
function drawHatches(plot: uPlot, hatches: readonly Hatch[]): void {
  const ratio = uPlot.pxRatio
  const { ctx, bbox } = plot
  for (const { from, to, why } of hatches) {
    const left = Math.max(bbox.left, plot.valToPos(from, 'x', true))
    const wanted = Math.max(plot.valToPos(to, 'x', true), left + MIN_HATCH * ratio)
    const right = Math.min(bbox.left + bbox.width, wanted)
    if (right <= left) continue
    ctx.save()
    ctx.beginPath()
    ctx.rect(left, bbox.top, right - left, bbox.height)
    ctx.clip()
    ctx.strokeStyle = token(why === 'clipped' ? '--signal' : '--rule-strong')
    ctx.globalAlpha = why === 'clipped' ? 0.8 : 0.5 // by night too it must read as red
    ctx.lineWidth = ratio
    ctx.beginPath()
    for (let x = left - bbox.height; x < right; x += HATCH * ratio) {
      ctx.moveTo(x, bbox.top + bbox.height)
      ctx.lineTo(x + bbox.height, bbox.top)
    }
    ctx.stroke()
    ctx.restore()
  }
}

const TENS = ['⁰', '¹', '²', '³', '⁴', '⁵', '⁶', '⁷', '⁸', '⁹']
/** Whole powers of ten alone have a figure. */
const powers = (_: uPlot, splits: (number | null)[]) =>
  splits.map((v) => {
    const power = v ? Math.log10(v) : NaN
    if (!Number.isFinite(power) || Math.abs(power - Math.round(power)) > 1e-6) return ''
    const raised = [...String(Math.abs(Math.round(power)))].map((d) => TENS[Number(d)]).join('')
    return `10${power < -0.5 ? '⁻' : ''}${raised}`
  })

const colour = (value: string) => (value.startsWith('--') ? token(value) : value)

export const padded = (low: number, high: number): [number, number] => {
  if (!Number.isFinite(low) || !Number.isFinite(high)) return [0, 1]
  const room = (high - low || Math.abs(high) || 1) * 0.06
  return [low - room, high + room]
}

/** Decimals that tell neighbouring ticks apart. */
const tickText = (splits: number[]) => {
  const step = Math.abs((splits[1] ?? 1) - (splits[0] ?? 0)) || 1
  let decimals = 0
  while (decimals < 6 && Math.abs(step * 10 ** decimals - Math.round(step * 10 ** decimals)) > 1e-6)
    decimals++
  return splits.map((v) => figure(v, decimals))
}

/** Room between the ticks of an upright scale, px: a low plot has closer ones, or it had one. */
const betweenTicks = (height: number) => Math.min(26, Math.max(14, height / 3))

/** Height of an x axis with its figures and without, and of what is below it, px. */
const BELOW = { figures: [30, 16], none: [8, 2] } as const
/** What the figures of an x axis take. */
export const X_FIGURES = BELOW.figures[0] + BELOW.figures[1] - BELOW.none[0] - BELOW.none[1]

const below = (hidden?: boolean) => (hidden ? BELOW.none : BELOW.figures)
const letters = (weight: number) => `${weight} ${12 * uPlot.pxRatio}px Archivo`

function axis(side: 'x' | 'y', hidden = false): uPlot.Axis {
  return {
    stroke: token('--ink'),
    font: '11px Figures',
    size: side === 'x' ? below(hidden)[0] : 58,
    gap: 3,
    space: side === 'x' ? 70 : (_, __, ___, ____, height) => betweenTicks(height),
    grid: { stroke: token('--grid'), width: 1 },
    ticks: { stroke: token('--ink'), width: 1, size: 6 },
    border: { show: true, stroke: token('--ink'), width: 1 },
    values: (_, splits) => (hidden ? splits.map(() => '') : tickText(splits)),
  }
}

/** Four short ticks between the long ones, as on a ruler. */
function minorTicks(plot: uPlot): void {
  const ratio = uPlot.pxRatio
  const { ctx, bbox } = plot
  ctx.save()
  ctx.strokeStyle = token('--ink')
  ctx.lineWidth = ratio
  ctx.beginPath()
  for (const scale of ['x', 'y'] as const) {
    const splits = (plot.axes[scale === 'x' ? 0 : 1] as { _splits?: number[] })._splits ?? []
    const step = ((splits[1] ?? 0) - (splits[0] ?? 0)) / 5
    const { min, max, distr } = plot.scales[scale]!
    if (distr === LOG) continue // its long ticks lie as close as that already
    if (!step || min == null || max == null) continue
    for (let v = splits[0]! - 5 * step; v <= max; v += step) {
      if (v < min) continue
      const at = Math.round(plot.valToPos(v, scale, true)) + 0.5
      if (scale === 'x') {
        ctx.moveTo(at, bbox.top + bbox.height)
        ctx.lineTo(at, bbox.top + bbox.height + 3 * ratio)
      } else {
        ctx.moveTo(bbox.left, at)
        ctx.lineTo(bbox.left - 3 * ratio, at)
      }
    }
  }
  ctx.stroke()
  ctx.restore()
}

const NEAR_EDGE = 0.9 // of a plot's width: what ends beyond has its name beside the plot

/** Each curve's name in its own colour, right of where it ends. */
function curveNames(plot: uPlot, curves: readonly Curve[]): void {
  const ratio = uPlot.pxRatio
  const { ctx, bbox } = plot
  ctx.save()
  ctx.font = letters(640)
  ctx.textAlign = 'left'
  ctx.textBaseline = 'middle'
  const ends = curves.flatMap((curve, i) => {
    const ys = plot.data[i + 1] ?? []
    let end = ys.length - 1
    while (end >= 0 && ys[end] == null) end--
    const x = plot.data[0][end]
    const y = ys[end]
    if (x == null || y == null) return []
    const edge = bbox.left + bbox.width
    const endX = plot.valToPos(x, 'x', true)
    const left = (endX > bbox.left + NEAR_EDGE * bbox.width ? edge : endX) + 6 * ratio
    const top = Math.max(plot.valToPos(y, 'y', true), bbox.top + 6)
    return [{ curve, left, top }]
  })
  const tops = spread(
    ends.map((e) => e.top),
    13 * ratio,
    bbox.top + bbox.height - 6,
  )
  ends.forEach(({ curve, left }, i) => {
    ctx.fillStyle = colour(curve.colour)
    ctx.fillText(curve.name, left, tops[i]!)
  })
  ctx.restore()
}

/** Name and unit of the only curve right of the plot. */
function nameBeside(plot: uPlot, curve: Curve, unit: string): void {
  const ratio = uPlot.pxRatio
  const { ctx, bbox } = plot
  const left = bbox.left + bbox.width + 8 * ratio
  const centre = bbox.top + bbox.height / 2
  ctx.save()
  ctx.textAlign = 'left'
  ctx.textBaseline = 'middle'
  ctx.font = letters(640)
  ctx.fillStyle = colour(curve.colour)
  ctx.fillText(curve.name, left, centre - 7 * ratio)
  ctx.font = letters(400)
  ctx.fillStyle = token('--ink-soft')
  ctx.fillText(unit, left, centre + 8 * ratio)
  ctx.restore()
}

function options(props: PlotProps, width: number, height: number): uPlot.Options {
  const { curves } = props
  const isRight = curves.some((c) => c.right)
  const names = props.nameRoom ?? Math.max(0, ...curves.map((c) => c.name.length))
  const room = isRight ? 12 : 12 + 7.5 * names
  return {
    width,
    height,
    padding: [8, room, below(props.hideX)[1], 0],
    legend: { show: false },
    cursor: {
      show: !!props.onZoom,
      points: { show: false },
      drag: { x: !!props.onZoom, y: false, setScale: false },
      y: false,
    },
    scales: {
      x: {
        time: false,
        range: (_, low, high) =>
          props.xRange?.() ?? (props.unordered ? padded(low, high) : [low, high]),
      },
      y: {
        range: (_, low, high) => (props.yRange ?? padded)(low, high),
        ...(props.logY && { distr: LOG }),
      },
      ...(isRight && {
        right: { range: (_: uPlot, low: number, high: number) => padded(low, high) },
      }),
    },
    axes: [
      axis('x', props.hideX),
      props.logY ? { ...axis('y'), values: powers } : axis('y'),
      ...(isRight
        ? [{ ...axis('y'), scale: 'right', side: 1 as const, grid: { show: false } }]
        : []),
    ],
    series: [
      { sorted: props.unordered ? 0 : 1 } as uPlot.Series,
      ...curves.map((curve) => ({
        label: curve.name,
        ...(curve.envelope
          ? { fill: colour(curve.colour), paths: envelopePaths }
          : { stroke: colour(curve.colour), width: curve.width ?? 1.5, dash: curve.dash }),
        scale: curve.right ? 'right' : 'y',
        points: curve.dots ? { show: true, size: 3, fill: colour(curve.colour) } : { show: false },
        ...(props.unordered && !curve.envelope && { paths: everyPoint }),
        ...(curve.dots && { paths: () => null }),
        spanGaps: false,
        pxAlign: 0,
      })),
    ],
    hooks: {
      draw: [
        minorTicks,
        (plot) => drawHatches(plot, props.hatches?.() ?? []),
        (plot) => drawMarks(plot, props.marks?.() ?? [], !!props.namesMarks),
        (plot) =>
          isRight
            ? undefined
            : props.nameBeside
              ? nameBeside(plot, curves[0]!, props.yUnit)
              : curveNames(plot, curves),
        ...(props.draw ? [props.draw] : []),
      ],
      setSelect: [
        (plot) => {
          const { left, width: span } = plot.select
          if (span > 4) props.onZoom?.(plot.posToVal(left, 'x'), plot.posToVal(left + span, 'x'))
          plot.setSelect({ left: 0, top: 0, width: 0, height: 0 }, false)
        },
      ],
    },
  }
}

export function Plot(props: PlotProps) {
  const box = useRef<HTMLDivElement>(null)
  const latest = useRef(props)
  const [drawn, setDrawn] = useState<{ plot: uPlot; at: number } | null>(null)
  const theme = useTheme()
  useEffect(() => {
    latest.current = props
  })
  const shape = props.curves.map((c) => c.name + c.colour + (c.right ? '>' : '')).join()
  useEffect(() => {
    const host = box.current
    if (!host) return
    const size = host.getBoundingClientRect()
    const live = { ...latest.current }
    for (const key of ['draw', 'xRange', 'yRange', 'onZoom', 'hatches', 'marks'] as const) {
      if (live[key])
        live[key] = ((...a: never[]) =>
          (latest.current[key] as never as (...a: never[]) => never)(...a)) as never
    }
    const settings = options(live, size.width, size.height)
    if (live.overlay)
      settings.hooks!.draw!.push((p) =>
        queueMicrotask(() => setDrawn({ plot: p, at: performance.now() })),
      )
    const plot = new uPlot(settings, latest.current.data(), host)
    let asked = 0
    let inView = true
    const redraw = () => {
      if (!inView) return // strips that are scrolled away cost nothing
      asked ||= requestAnimationFrame(() => {
        asked = 0
        plot.setData(latest.current.data())
      })
    }
    const leave = latest.current.subscribe?.(redraw)
    const onRedraw = () => redraw()
    host.addEventListener('redraw', onRedraw)
    const watch = new ResizeObserver(([entry]) => {
      if (entry) plot.setSize(entry.contentRect)
    })
    watch.observe(host)
    const view = new IntersectionObserver(([entry]) => {
      inView = entry!.isIntersecting
      redraw()
    })
    view.observe(host)
    return () => {
      leave?.()
      view.disconnect()
      watch.disconnect()
      host.removeEventListener('redraw', onRedraw)
      cancelAnimationFrame(asked)
      plot.destroy()
      setDrawn(null)
    }
  }, [shape, theme, props.subscribe, props.hideX])
  useEffect(() => {
    box.current?.dispatchEvent(new Event('redraw'))
  }, [props.data, props.draw, props.view])
  return (
    <figure className="relative flex min-h-0 min-w-0 flex-1 flex-col" aria-label={props.label}>
      {!props.nameBeside && (
        <figcaption className="flex-none pt-1.5 pl-2 text-small leading-4">
          <b className="font-strong">{props.yName}</b>{' '}
          <span className="text-soft">{props.yUnit}</span>
          {props.rightUnit !== undefined && (
            <span className="absolute right-3">
              <b className="font-strong">{props.rightName}</b>{' '}
              <span className="text-soft">{props.rightUnit}, right</span>
            </span>
          )}
        </figcaption>
      )}
      <div ref={box} className="relative min-h-0 flex-1">
        {drawn && props.overlay && (
          <div className="pointer-events-none absolute inset-0 z-10">
            {props.overlay(drawn.plot)}
          </div>
        )}
      </div>
      {!props.hideX && (
        <div className="pointer-events-none absolute right-3 bottom-0 text-small leading-4">
          <b className="font-strong">{props.xName}</b>{' '}
          <span className="text-soft">{props.xUnit}</span>
        </div>
      )}
    </figure>
  )
}
