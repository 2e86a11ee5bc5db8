import type { Forms, Leg } from '../form'
import { force } from './force'
import { history } from './history'
import { hold } from './hold'
import { output } from './output'
import { random } from './random'
import { repeat } from './repeat'
import { settle } from './settle'
import { sweep, travelSweep } from './sweep'
import { toReading } from './toReading'
import { travel } from './travel'
import { wait } from './wait'
import { wave } from './wave'

/** What a programme is made of; a new kind adds a file and a line here. */
export const LEGS: Forms<Leg> = {
  to_force: force,
  to_travel: travel,
  to_reading: toReading,
  hold,
  settle,
  wave,
  random,
  history,
  sweep,
  travel_sweep: travelSweep,
  output,
  repeat,
  wait,
}
