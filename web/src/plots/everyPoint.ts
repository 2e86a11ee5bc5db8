import type uPlot from 'uplot'

/**
 * A line from point to point in the order in which they come. The library's own line keeps one
 * column for each pixel once there are many points, which holds for rising x alone.
 */
export const everyPoint: uPlot.Series.PathBuilder = (plot, series) => {
  const [xs, ys] = [plot.data[0], plot.data[series]!]
  const scale = plot.series[series]!.scale!
  const stroke = new Path2D()
  let isDown = false
  for (let i = 0; i < xs.length; i++) {
    const [x, y] = [xs[i], ys[i]]
    if (x == null || y == null) {
      isDown = false
      continue
    }
    const [left, top] = [plot.valToPos(x, 'x', true), plot.valToPos(y, scale, true)]
    if (isDown) stroke.lineTo(left, top)
    else stroke.moveTo(left, top)
    isDown = true
  }
  return { stroke }
}
