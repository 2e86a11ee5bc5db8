import type { Forms, Stop } from '../form'
import { cyclesDone } from './cyclesDone'
import { drop } from './drop'
import { forceDrop } from './forceDrop'
import { limit } from './limit'
import { motionEnd } from './motionEnd'
import { timeUp } from './timeUp'

/** What can end a run by itself; a new kind adds a file and a line here. */
export const STOPS: Forms<Stop> = {
  force_drop: forceDrop,
  drop,
  time: timeUp,
  cycles: cyclesDone,
  motion_end: motionEnd,
  limit,
}
