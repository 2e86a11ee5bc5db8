import { describe, expect, it } from 'vitest'

import { Diamond, InputSign } from './Diamond'
import { render } from './testing'

/** Area of a polygon's `points`. */
function area(polygon: Element): number {
  const points = polygon
    .getAttribute('points')!
    .split(' ')
    .map((p) => p.split(',').map(Number) as [number, number])
  return Math.abs(
    points.reduce((sum, [x, y], i) => {
      const [nx, ny] = points[(i + 1) % points.length]!
      return sum + x * ny - nx * y
    }, 0) / 2,
  )
}

async function sides(active: number[], broken: number[] = []) {
  const box = await render(<Diamond size={72} active={active} broken={broken} />)
  return [...box.querySelectorAll('polygon')]
}

describe('the bridge diamond', () => {
  it('draws strained arms thicker', async () => {
    const [first, second, third, fourth] = (await sides([1])).map(area)
    expect(first!).toBeGreaterThan(3 * second!)
    expect(third!).toBeCloseTo(second! * 1, -1)
    expect(fourth!).toBeLessThan(first! / 3)
  })

  it('counts arms counter-clockwise: arm 2 lies below arm 1, on the left', async () => {
    const [upperLeft, upperRight, lowerRight, lowerLeft] = (await sides([1, 2])).map(area)
    expect(lowerLeft!).toBeCloseTo(upperLeft!, 0)
    expect(lowerLeft!).toBeGreaterThan(3 * Math.max(upperRight!, lowerRight!))
  })

  it('puts arm 1 at the upper left', async () => {
    const [first] = await sides([1])
    const [x, y] = first!.getAttribute('points')!.split(' ')[0]!.split(',').map(Number)
    expect(x).toBeLessThan(4)
    expect(y).toBeCloseTo(36)
  })

  it('parts a broken side and leaves its middle out', async () => {
    const whole = (await sides([1])).map(area)
    const parted = await sides([1], [1])
    expect(parted).toHaveLength(5)
    expect(area(parted[0]!) + area(parted[1]!)).toBeLessThan(0.8 * whole[0]!)
    expect(parted[0]!.parentElement!.getAttribute('fill')).toBe('var(--signal)')
  })

  it.each([
    ['none', 0],
    ['dot', 1],
    ['bar', 1],
    ['tick', 2],
  ] as const)('shows %s inside', async (inside, marks) => {
    const box = await render(<Diamond size={20} active={[1, 2, 3, 4]} inside={inside} />)
    expect(box.querySelectorAll('circle, rect')).toHaveLength(marks)
  })
})

it('an input that is no bridge is a circle', async () => {
  const sign = async (signal: string) =>
    render(<InputSign signal={signal} size={20} active={[1]} inside="dot" />)
  expect((await sign('voltage')).querySelectorAll('circle')).toHaveLength(2)
  expect((await sign('voltage')).querySelectorAll('polygon')).toHaveLength(0)
  expect((await sign('bridge ratio')).querySelectorAll('polygon')).toHaveLength(4)
})
