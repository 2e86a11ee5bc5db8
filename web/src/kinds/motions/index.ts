import type { Forms, Motion } from '../form'
import { forceRamp } from './forceRamp'
import { forceSine } from './forceSine'
import { noMotion } from './noMotion'
import { programme } from './programme'
import { ramp } from './ramp'

/** What an actuator can do in a run; a new kind adds a file and a line here. */
export const MOTIONS: Forms<Motion> = {
  none: noMotion,
  ramp,
  force_ramp: forceRamp,
  force_sine: forceSine,
  programme,
}
