import { createContext, useContext } from 'react'

import type { Channel } from '../../../api/client'

export type Check = NonNullable<Channel['check']>

/** What of a drawing is marked: cores that end in the middle, pins and arms that are not well. */
export interface Marks {
  broken: number[]
  pins: number[]
  arms: number[]
  /** Which way it counts. */
  polarity: Channel['polarity']
}

const NO_MARKS: Marks = { broken: [], pins: [], arms: [], polarity: 'as wired' }

/** A check that still holds, or nothing. */
export const inForce = (channel: Channel): Check | null =>
  channel.check && !channel.check.old ? channel.check : null

/** What a check found, for the drawing; of a wiring that was changed since, nothing. */
export function marksOf(channel: Channel): Marks {
  const check = inForce(channel)
  const { polarity } = channel
  if (!check) return { ...NO_MARKS, polarity }
  const causes = [...check.causes, ...check.others.flatMap((o) => o.causes)]
  const broken = causes.filter((c) => c.kind === 'broken core').flatMap((c) => c.pins)
  return {
    broken,
    pins: causes.flatMap((c) => c.pins),
    arms: causes.flatMap((c) => c.arms),
    polarity,
  }
}

/** Which sides of the small diamond break: a core breaks the side that it leads to. */
const ARM_OF_PIN: Record<number, number> = { 1: 1, 2: 1, 3: 4, 4: 1, 5: 2, 6: 2 }

export function brokenSides(channel: Channel): number[] {
  const check = inForce(channel)
  if (!check || check.passed) return []
  const { pins, arms } = marksOf(channel)
  const sides = [...arms, ...pins.map((p) => ARM_OF_PIN[p] ?? 1)]
  return sides.length ? [...new Set(sides)] : [1]
}

export const MarksContext = createContext<Marks>(NO_MARKS)
export const useMarks = (): Marks => useContext(MarksContext)
