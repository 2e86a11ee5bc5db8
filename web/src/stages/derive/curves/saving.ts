/** What is drawn as files: CSV of its numbers, a PNG of the plots, an SVG of lines. */

import { ticksOf } from '../../../panes/ruler/ticks'
import { figure } from '../../../ui/format'

export interface DrawnCurve {
  plot: string // channel
  unit: string
  run: string
  colour: string // a CSS variable
  dash?: readonly number[]
  points: readonly (readonly [number, number | null])[]
}

const quoted = (text: string) => (/[",\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text)

/** A row for each point, as it is drawn; what has no value is empty. */
export function csvOf(curves: readonly DrawnCurve[], xName: string): string {
  const rows = curves.flatMap(({ plot, unit, run, points }) =>
    points.map(([x, y]) => [quoted(run), quoted(plot), quoted(unit), x, y ?? ''].join(',')),
  )
  return [['run', 'channel', 'unit', quoted(xName), 'value'].join(','), ...rows].join('\n') + '\n'
}

const [WIDTH, HEIGHT, LEFT, BELOW] = [800, 240, 70, 40]

/** The plots one below the other, as lines that stay sharp in a report. */
export function svgOf(curves: readonly DrawnCurve[], xName: string, colour: (v: string) => string) {
  const plots = [...new Set(curves.map((c) => c.plot))]
  const xs = curves.flatMap((c) => c.points.map(([x]) => x))
  const [x0, x1] = ends(xs)
  const parts = plots.map((plot, i) => {
    const own = curves.filter((c) => c.plot === plot)
    const [y0, y1] = ends(own.flatMap((c) => c.points.flatMap(([, y]) => (y === null ? [] : [y]))))
    const top = i * (HEIGHT + BELOW) + 24
    const x = (v: number) => LEFT + ((v - x0) / (x1 - x0)) * (WIDTH - LEFT - 20)
    const y = (v: number) => top + HEIGHT - 30 - ((v - y0) / (y1 - y0)) * (HEIGHT - 40)
    return plotParts(plot, own, { x, y, x0, x1, y0, y1, top, xName, colour })
  })
  const height = plots.length * (HEIGHT + BELOW) + 30
  const names = [...new Map(curves.map((c) => [c.run, c]))].map(
    ([run, c], i) =>
      `<text x="${LEFT + i * 150}" y="${height - 8}" fill="${colour(c.colour)}">${escaped(run)}</text>`,
  )
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${WIDTH} ${height}" font-family="sans-serif" font-size="12">${parts.join('')}${names.join('')}</svg>\n`
}

interface Scales {
  x: (v: number) => number
  y: (v: number) => number
  x0: number
  x1: number
  y0: number
  y1: number
  top: number
  xName: string
  colour: (v: string) => string
}

function plotParts(plot: string, own: readonly DrawnCurve[], s: Scales): string {
  const bottom = s.top + HEIGHT - 30
  const across = ticksOf(s.x0, s.x1)
  const up = ticksOf(s.y0, s.y1)
  const ticks = [
    ...across.long.map(
      (v) =>
        `<path d="M${s.x(v).toFixed(1)} ${bottom}v5" stroke="#000"/><text x="${s.x(v).toFixed(1)}" y="${bottom + 17}" text-anchor="middle">${figure(v, across.decimals)}</text>`,
    ),
    ...up.long.map(
      (v) =>
        `<path d="M${LEFT} ${s.y(v).toFixed(1)}h-5" stroke="#000"/><text x="${LEFT - 8}" y="${(s.y(v) + 4).toFixed(1)}" text-anchor="end">${figure(v, up.decimals)}</text>`,
    ),
  ]
  const lines = own.map((c) => {
    let pen = 'M'
    const d = c.points
      .map(([x, y]) => {
        if (y === null) {
          pen = 'M'
          return ''
        }
        const step = `${pen}${s.x(x).toFixed(1)} ${s.y(y).toFixed(1)}`
        pen = 'L'
        return step
      })
      .join('')
    return `<path d="${d}" fill="none" stroke="${s.colour(c.colour)}" stroke-dasharray="${c.dash?.join(' ') ?? ''}"/>`
  })
  const unit = own[0]?.unit ?? ''
  return `<text x="${LEFT}" y="${s.top - 8}" font-weight="bold">${escaped(plot)} ${escaped(unit)}</text><path d="M${LEFT} ${s.top}V${bottom}H${WIDTH - 20}" fill="none" stroke="#000"/>${ticks.join('')}${lines.join('')}<text x="${WIDTH - 20}" y="${bottom + 32}" text-anchor="end">${escaped(s.xName)}</text>`
}

const escaped = (text: string) =>
  text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;')

function ends(values: readonly number[]): [number, number] {
  let [low, high] = [Infinity, -Infinity]
  for (const v of values) [low, high] = [Math.min(low, v), Math.max(high, v)]
  if (!(high > low)) return Number.isFinite(low) ? [low - 0.5, low + 0.5] : [0, 1]
  return [low, high]
}

const TITLE = 18 // px above each plot

/** All plots in a box, one below the other under their names, in one picture. */
export function pngOf(box: HTMLElement, names: readonly string[]): string {
  const canvases = [...box.querySelectorAll('canvas')]
  const made = document.createElement('canvas')
  made.width = Math.max(1, ...canvases.map((c) => c.width))
  made.height = Math.max(
    1,
    canvases.reduce((sum, c) => sum + c.height + TITLE, 0),
  )
  const ctx = made.getContext('2d')!
  const token = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name)
  ctx.fillStyle = token('--sheet')
  ctx.fillRect(0, 0, made.width, made.height)
  ctx.fillStyle = token('--ink')
  ctx.font = '600 13px Archivo, sans-serif'
  canvases.reduce((top, canvas, i) => {
    ctx.fillText(names[i] ?? '', 8, top + TITLE - 4)
    ctx.drawImage(canvas, 0, top + TITLE)
    return top + TITLE + canvas.height
  }, 0)
  return made.toDataURL('image/png')
}

/** Give a file to the person: by a link that is followed and forgotten. */
export function download(name: string, href: string): void {
  const link = document.createElement('a')
  link.href = href
  link.download = name
  link.click()
}

export const asFile = (text: string, type: string): string =>
  `data:${type};charset=utf-8,${encodeURIComponent(text)}`
