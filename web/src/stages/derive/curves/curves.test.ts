import { beforeAll, expect, it } from 'vitest'

import { UNITS } from '../../../ui/testing-data'
import { learnUnits } from '../../../ui/units'
import { csvOf, svgOf, type DrawnCurve } from './saving'
import { beside, joined, pairTable, tableOf, valueAt } from './tables'
import { about, moved, shownRange, stepped, UNZOOMED, zoomed } from './zooms'

beforeAll(() => learnUnits(UNITS))

const segment = (start: number, low: number[], high: number[], step = 1) => ({
  start,
  step,
  low: new Float32Array(low),
  high: new Float32Array(high),
})

it('a run is moved by its instant, and nothing bridges what is missing', () => {
  const parts = [segment(10, [1000], [3000]), segment(20, [2000], [2000])]
  expect(tableOf(parts, 'kN', 10)).toEqual([
    [0.25, 0.75, 10, 10.25, 10.75],
    [1, 3, null, 2, 2],
  ])
  expect(tableOf([segment(0, [1], [1])], 'N', 0, 4)[0]).toEqual([1, 3])
})

it('tables of runs keep all their points at any times', () => {
  const a = tableOf([segment(0, [1, 2], [1, 2])], 'N', 0)
  const b = tableOf([segment(0, [5, 6], [5, 6])], 'N', 0.25)
  const [x, first, second] = joined([a, b]) as number[][]
  expect(x).toEqual([0, 0.25, 0.5, 0.75, 1, 1.25, 1.5, 1.75])
  expect(first!.filter((v) => v != null)).toEqual([1, 1, 2, 2])
  expect(second!.filter((v) => v != null)).toEqual([5, 5, 6, 6])
  expect(joined([])).toEqual([[], []])
})

it('a value is read on the line between columns, and not where there is none', () => {
  const parts = [segment(0, [0, 10, Infinity], [2, 12, Infinity])]
  expect(valueAt(parts, 0.5)).toBe(1)
  expect(valueAt(parts, 1)).toBe(6)
  expect(valueAt(parts, 2.2)).toBeNull()
  expect(valueAt(parts, 7)).toBeNull()
})

it('one channel goes over another of another clock, run beside run', () => {
  const up = [segment(0, [1000, 2000], [1000, 2000])]
  const across = [segment(-0.5, [1, 3, 5], [1, 3, 5])]
  const pair = pairTable(up, across, ['kN', 'N'])
  expect(pair).toEqual([
    [2, 4],
    [1, 2],
  ])
  expect(beside([pair, pair])).toEqual([
    [2, 4, null, 2, 4, null],
    [1, 2, null, null, null, null],
    [null, null, null, 1, 2, null],
  ])
})

it('zooms go back and forward, and a new one forgets those ahead', () => {
  let zooms = zoomed(zoomed(UNZOOMED, [0, 10]), [2, 4])
  expect(shownRange(zooms)).toEqual([2, 4])
  zooms = stepped(zooms, -1)
  expect(shownRange(zooms)).toEqual([0, 10])
  expect(shownRange(stepped(zooms, 1))).toEqual([2, 4])
  zooms = zoomed(zooms, [5, 6])
  expect(shownRange(stepped(zooms, 1))).toEqual([5, 6])
  expect(shownRange(stepped(zooms, -9))).toBeNull()
  expect(zoomed(zooms, [3, 3])).toBe(zooms)
  expect(about([0, 10], 2, 0.5)).toEqual([1, 6])
  expect(moved([0, 10], 0.25)).toEqual([2.5, 12.5])
})

const curve: DrawnCurve = {
  plot: 'F & <axle>',
  unit: 'kN',
  run: 'Run 1, again',
  colour: '--curve-1',
  points: [[0, 1], [1, null], [2, 3]], // prettier-ignore
}

it('what is drawn is a table of its points', () => {
  expect(csvOf([curve], 'time, s').split('\n')).toEqual([
    'run,channel,unit,"time, s",value',
    '"Run 1, again",F & <axle>,kN,0,1',
    '"Run 1, again",F & <axle>,kN,1,',
    '"Run 1, again",F & <axle>,kN,2,3',
    '',
  ])
})

it('an SVG is well formed, and its lines break where nothing is', () => {
  const text = svgOf([curve], 'time, s', () => '#123456')
  const found = new DOMParser().parseFromString(text, 'image/svg+xml')
  expect(found.querySelector('parsererror')).toBeNull()
  expect(found.documentElement.textContent).toContain('F & <axle> kN')
  const line = [...text.matchAll(/d="([^"]+)" fill="none" stroke="#123456"/g)][0]![1]!
  expect(line.match(/M/g)).toHaveLength(2)
})
