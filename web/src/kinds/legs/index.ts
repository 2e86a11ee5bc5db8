import type { Forms, Leg } from '../form'
import { force } from './force'
import { hold } from './hold'
import { repeat } from './repeat'
import { sweep } from './sweep'
import { travel } from './travel'
import { wait } from './wait'
import { wave } from './wave'

/** What a programme is made of; a new kind adds a file and a line here. */
export const LEGS: Forms<Leg> = {
  to_force: force,
  to_travel: travel,
  hold,
  wave,
  sweep,
  repeat,
  wait,
}
