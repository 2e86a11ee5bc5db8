import { Slider } from 'radix-ui'
import type uPlot from 'uplot'

import { figure } from '../ui/format'

interface Props {
  plot: uPlot
  at: number // s
  last: number // s
  /** Into how many the arrow keys divide the run. */
  steps: number
  label: string
  onPick: (time: number) => void
}

/** A cursor over a plot's time axis: a click takes it there, the arrow keys move it. */
export function TimeCursor({ plot, at, last, steps, label, onPick }: Props) {
  const start = plot.valToPos(0, 'x')
  return (
    <Slider.Root
      value={[at]}
      min={0}
      max={last}
      step={last / steps}
      onValueChange={([time]) => onPick(time!)}
      className="pointer-events-auto absolute cursor-crosshair touch-none"
      style={{
        left: plot.over.offsetLeft + start,
        top: plot.over.offsetTop,
        width: plot.valToPos(last, 'x') - start,
        height: plot.over.clientHeight,
      }}
    >
      <Slider.Track className="absolute inset-0" />
      <Slider.Thumb
        aria-label={label}
        aria-valuetext={`${figure(at, 2)} s`}
        className="block w-px"
        style={{ height: plot.over.clientHeight }}
      >
        <span className="absolute inset-y-0 border-l-[1.6px] border-ink" />
        <span className="absolute -top-1 -left-1.25 size-2.75 rotate-45 border border-ink bg-marking" />
      </Slider.Thumb>
    </Slider.Root>
  )
}
