import type uPlot from 'uplot'
import { expect, it, vi } from 'vitest'

import { everyPoint } from './everyPoint'

it('a curve that doubles back keeps all its points, and breaks where nothing is', () => {
  const drawn: string[] = []
  class FakePath {
    moveTo(x: number, y: number) {
      drawn.push(`M${x} ${y}`)
    }
    lineTo(x: number, y: number) {
      drawn.push(`L${x} ${y}`)
    }
  }
  vi.stubGlobal('Path2D', FakePath)
  const x = Array.from({ length: 9000 }, (_, i) => i % 3)
  const y: (number | null)[] = x.map((_, i) => i)
  y[1] = null
  const plot = {
    data: [x, y],
    series: [{}, { scale: 'y' }],
    valToPos: (v: number) => v,
  } as unknown as uPlot
  void everyPoint(plot, 1, 0, x.length - 1)
  expect(drawn.slice(0, 4)).toEqual(['M0 0', 'M2 2', 'L0 3', 'L1 4'])
  expect(drawn).toHaveLength(8999)
})
