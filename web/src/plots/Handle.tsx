import { Slider } from 'radix-ui'
import type uPlot from 'uplot'

import { figure } from '../ui/format'

interface Props {
  plot: uPlot
  /** The axis along which it moves. */
  along: 'x' | 'y'
  /** Where it stands, in units of the axis, and where on the other one. */
  value: number
  across: number
  min: number
  max: number
  step: number
  label: string
  /** How its value is said. */
  decimals: number
  unit: string
  filled?: boolean
  disabled?: boolean
  /** While it moves, and once it has come to rest. */
  onMove: (value: number) => void
  onRest: (value: number) => void
}

/**
 * A round handle of a construction line: a slider whose track lies along an axis of a plot, and is
 * not seen. Its thumb has no size of its own, so that it stands at its value exactly.
 */
export function Handle({ plot, along, min, max, ...props }: Props) {
  const upright = along === 'y'
  const at = (value: number, axis: 'x' | 'y') =>
    plot.valToPos(value, axis) + (axis === 'x' ? plot.over.offsetLeft : plot.over.offsetTop)
  const [from, to] = [at(min, along), at(max, along)]
  const across = at(props.across, upright ? 'x' : 'y')
  return (
    <Slider.Root
      orientation={upright ? 'vertical' : 'horizontal'}
      value={[props.value]}
      min={min}
      max={max}
      step={props.step}
      disabled={props.disabled}
      onValueChange={([value]) => props.onMove(value!)}
      onValueCommit={([value]) => props.onRest(value!)}
      className="pointer-events-none absolute touch-none"
      style={
        upright
          ? { left: across, top: to, height: from - to, width: 1 }
          : { top: across, left: from, width: to - from, height: 1 }
      }
    >
      <Slider.Thumb
        aria-label={props.label}
        aria-valuetext={`${figure(props.value, props.decimals)} ${props.unit}`}
        className="group relative block size-px outline-none"
      >
        <span className="pointer-events-auto absolute top-0 left-0 grid size-7 -translate-1/2 cursor-grab place-items-center rounded-full group-focus-visible:outline-2 group-data-disabled:cursor-default">
          <span
            className={`size-3.25 rounded-full border-[1.6px] border-ink ${props.filled ? 'bg-marking' : 'bg-sheet'}`}
          />
        </span>
      </Slider.Thumb>
    </Slider.Root>
  )
}
