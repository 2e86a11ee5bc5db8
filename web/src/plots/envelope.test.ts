import type uPlot from 'uplot'
import { beforeEach, expect, it, vi } from 'vitest'

import { envelopePaths } from './envelope'

let corners: [number, number][][] = []

class FakePath {
  moveTo(x: number, y: number) {
    corners.push([[x, y]])
  }
  lineTo(x: number, y: number) {
    corners.at(-1)!.push([x, y])
  }
  closePath() {}
}

function shapes(x: number[], y: (number | null)[]) {
  const plot = { data: [x, y], valToPos: (v: number) => v } as unknown as uPlot
  void envelopePaths(plot, 1, 0, x.length - 1)
  return corners
}

beforeEach(() => {
  corners = []
  vi.stubGlobal('Path2D', FakePath)
  vi.stubGlobal('devicePixelRatio', 1)
})

it('draws one shape over lowest and highest of each pixel column', () => {
  const [shape] = shapes([1, 1, 1.2, 1.2, 2, 2], [10, 20, 5, 12, 8, 18])
  expect(shape).toEqual([
    [0.25, 4.25],
    [2, 7.25],
    [2.75, 18.75],
    [1.75, 20.75],
  ])
})

it('keeps a step as thick as a line and breaks where nothing is known', () => {
  const [step, after] = shapes([1, 1, 2, 2, 3, 3, 4, 4], [0, 0, 90, 90, null, null, 7, 7])
  expect(step).toEqual([
    [0.25, -0.75],
    [2, -0.75],
    [2.75, 90.75],
    [1.75, 0.75],
  ])
  expect(after).toHaveLength(2)
})
