import type { Forms, Specimen } from '../form'
import { area } from './area'
import { flat } from './flat'
import { part } from './part'
import { round } from './round'
import { tube } from './tube'

/** What can be tested; a new kind adds a file and a line here. */
export const SPECIMENS: Forms<Specimen> = { flat, round, tube, area, part }
