import type { Forms, Trigger } from '../form'
import { atOnce } from './atOnce'
import { atTime } from './atTime'
import { level } from './level'

/** What has the keeping of a run begin; a new kind adds a file and a line here. */
export const TRIGGERS: Forms<Trigger> = {
  at_once: atOnce,
  level,
  at_time: atTime,
}
