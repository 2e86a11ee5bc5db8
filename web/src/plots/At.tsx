import type { ReactNode } from 'react'
import type uPlot from 'uplot'

/** Puts something at a point of a plot, in the plot's own units. */
export function At({
  plot,
  x,
  y,
  children,
}: {
  plot: uPlot
  x: number
  y: number
  children: ReactNode
}) {
  return (
    <span
      className="absolute text-small whitespace-nowrap"
      style={{
        left: plot.valToPos(x, 'x') + plot.over.offsetLeft,
        top: plot.valToPos(y, 'y') + plot.over.offsetTop,
      }}
    >
      {children}
    </span>
  )
}
