import type { Forms, Guard } from '../form'
import { noSignal } from './noSignal'
import { outside } from './outside'
import { tooFast } from './tooFast'

/** What can be watched while a run records; a new kind adds a file and a line here. */
export const GUARDS: Forms<Guard> = {
  outside,
  too_fast: tooFast,
  no_signal: noSignal,
}
