import { useQuery } from '@tanstack/react-query'
import { useMemo } from 'react'
import uPlot from 'uplot'

import type { Schemas } from '../api/client'
import { markersQuery } from '../api/queries'
import { token } from '../ui/theme'

/** A named instant of a run, drawn as a flag in its plots. */
export interface Mark {
  /** Seconds of the run. */
  readonly at: number
  readonly text: string
  readonly colour: string
}

const COLOURS: Partial<Record<Schemas['MarkerOut']['kind'], string>> = {
  person: '--marking-ink',
  guard: '--signal',
  trigger: '--petrol',
  restart: '--marking-ink',
  pause: '--soft',
}
const NONE: readonly Mark[] = []
const ROOM = 70 // px that a mark's words take before the next one's
const FLAG = 7 // px

/** What a person marked, and what happened by itself; places in a programme are not drawn. */
export function useMarks(run: number | null): readonly Mark[] {
  const items = useQuery({ ...markersQuery(run ?? 0), enabled: run !== null }).data?.items
  return useMemo(
    () =>
      items?.flatMap(({ kind, at_s, text }) => {
        const colour = COLOURS[kind]
        return colour ? [{ at: at_s, text, colour }] : []
      }) ?? NONE,
    [items],
  )
}

/** Flags at the top of a plot, with their words where there is room for them. */
export function drawMarks(plot: uPlot, marks: readonly Mark[], words: boolean): void {
  const ratio = uPlot.pxRatio
  const { ctx, bbox } = plot
  ctx.save()
  ctx.beginPath()
  ctx.rect(bbox.left, bbox.top, bbox.width, bbox.height)
  ctx.clip()
  ctx.lineWidth = ratio
  ctx.font = `500 ${10 * ratio}px Archivo`
  ctx.textBaseline = 'top'
  ctx.textAlign = 'left'
  const placed = [...marks]
    .sort((a, b) => a.at - b.at)
    .map((mark) => ({ ...mark, x: plot.valToPos(mark.at, 'x', true) }))
    .filter(({ x }) => x >= bbox.left - 1 && x <= bbox.left + bbox.width + 1)
  placed.forEach(({ x, text, colour }, i) => {
    ctx.strokeStyle = ctx.fillStyle = token(colour)
    ctx.setLineDash([3 * ratio, 3 * ratio])
    ctx.beginPath()
    ctx.moveTo(x, bbox.top)
    ctx.lineTo(x, bbox.top + bbox.height)
    ctx.stroke()
    flag(ctx, x, bbox.top, FLAG * ratio)
    const room = (placed[i + 1]?.x ?? bbox.left + bbox.width) - x - (FLAG + 4) * ratio
    if (words && room > ROOM * ratio)
      ctx.fillText(cut(ctx, text, room), x + (FLAG + 3) * ratio, bbox.top + ratio)
  })
  ctx.restore()
}

function flag(ctx: CanvasRenderingContext2D, x: number, top: number, size: number): void {
  ctx.beginPath()
  ctx.moveTo(x, top)
  ctx.lineTo(x + size, top + size / 2)
  ctx.lineTo(x, top + size)
  ctx.fill()
}

function cut(ctx: CanvasRenderingContext2D, text: string, room: number): string {
  if (ctx.measureText(text).width <= room) return text
  let end = text.length
  while (end > 1 && ctx.measureText(`${text.slice(0, end)}…`).width > room) end--
  return `${text.slice(0, end)}…`
}
