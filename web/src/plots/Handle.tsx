import type { KeyboardEvent, PointerEvent } from 'react'
import type uPlot from 'uplot'

interface Props {
  plot: uPlot
  x: number
  y: number
  label: string
  words: string
  value: number
  filled?: boolean
  disabled?: boolean
  /** Position within the plotting area, in CSS pixels. */
  onDrag: (x: number, y: number) => void
  onDrop: () => void
  /** One step up (+1) or down (-1) by the arrow keys. */
  onStep: (step: number) => void
}

/** A round handle of a construction line; dragged, or moved by the arrow keys. */
export function Handle(props: Props) {
  const { plot } = props
  const drag = (event: PointerEvent<HTMLButtonElement>) => {
    if (!event.currentTarget.hasPointerCapture(event.pointerId)) return
    const area = plot.over.getBoundingClientRect()
    props.onDrag(event.clientX - area.left, event.clientY - area.top)
  }
  const step = (event: KeyboardEvent) => {
    const by = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[event.key]
    if (!by) return
    event.preventDefault()
    props.onStep(by)
  }
  return (
    <button
      type="button"
      role="slider"
      aria-label={props.label}
      aria-valuenow={props.value}
      aria-valuetext={props.words}
      disabled={props.disabled}
      onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
      onPointerMove={drag}
      onPointerUp={props.onDrop}
      onKeyDown={step}
      className="pointer-events-auto absolute grid size-7 -translate-1/2 touch-none place-items-center rounded-full enabled:cursor-grab"
      style={{
        left: plot.valToPos(props.x, 'x') + plot.over.offsetLeft,
        top: plot.valToPos(props.y, 'y') + plot.over.offsetTop,
      }}
    >
      <span
        className={`size-[13px] rounded-full border-[1.6px] border-ink ${props.filled ? 'bg-marking' : 'bg-sheet'}`}
      />
    </button>
  )
}
