/** A channel has one colour and dash on every screen: those of its place in the setup. */

import type { Setup } from '../api/client'
import { readablesOf } from '../readable'

const COLOURS = ['--curve-1', '--curve-2', '--curve-3', '--curve-4', '--curve-5', '--curve-6']
const DASHES = [undefined, [7, 4], [2, 3], [9, 3, 2, 3]]

export interface Look {
  colour: string
  dash?: number[]
}

export const lookAt = (place: number): Look => ({
  colour: COLOURS[place % COLOURS.length]!,
  dash: DASHES[Math.floor(place / COLOURS.length) % DASHES.length],
})

export const lookOf = (setup: Setup, key: string): Look =>
  lookAt(
    Math.max(
      0,
      readablesOf(setup).findIndex((c) => c.key === key),
    ),
  )
