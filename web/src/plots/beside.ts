import uPlot from 'uplot'

import { token } from '../ui/theme'

/** Curves drawn beside those of a plot, on its scales but with times of their own. */

export interface Beside {
  readonly data: uPlot.AlignedData
  readonly colour: string
  readonly dash: readonly number[]
  readonly width: number
  readonly alpha: number
}

/** How the first, second ... curve beside is drawn: thick and pale, then dashed. */
export const STYLES: readonly Omit<Beside, 'data' | 'colour'>[] = [
  { dash: [], width: 5, alpha: 0.35 },
  { dash: [7, 4], width: 1.5, alpha: 1 },
  { dash: [2, 3], width: 1.8, alpha: 1 },
]

export function drawBeside(plot: uPlot, curves: readonly Beside[]): void {
  const ratio = uPlot.pxRatio
  const { ctx, bbox } = plot
  ctx.save()
  ctx.beginPath()
  ctx.rect(bbox.left, bbox.top, bbox.width, bbox.height)
  ctx.clip()
  for (const { data, colour, dash, width, alpha } of curves) {
    ctx.strokeStyle = token(colour)
    ctx.lineWidth = width * ratio
    ctx.globalAlpha = alpha
    ctx.setLineDash(dash.map((d) => d * ratio))
    ctx.beginPath()
    trace(plot, data)
    ctx.stroke()
  }
  ctx.restore()
}

function trace(plot: uPlot, [xs, ys]: uPlot.AlignedData): void {
  let down = false
  for (let i = 0; i < xs.length; i++) {
    const y = ys?.[i]
    if (y == null) {
      down = false
      continue
    }
    const [left, top] = [plot.valToPos(xs[i]!, 'x', true), plot.valToPos(y, 'y', true)]
    if (down) plot.ctx.lineTo(left, top)
    else plot.ctx.moveTo(left, top)
    down = true
  }
}

/** Lowest and highest over a plot's own and the curves beside it. */
export function widened(low: number, high: number, curves: readonly Beside[]): [number, number] {
  let [least, most] = [low, high]
  for (const { data } of curves)
    for (const y of data[1] ?? [])
      if (y != null) {
        least = Math.min(least, y)
        most = Math.max(most, y)
      }
  return [least, most]
}
