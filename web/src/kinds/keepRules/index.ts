import type { Forms, KeepRule } from '../form'
import { bursts } from './bursts'
import { changes } from './changes'
import { everything } from './everything'
import { turningPoints } from './turningPoints'

/** What of the samples is stored; a new kind adds a file and a line here. */
export const KEEP_RULES: Forms<KeepRule> = {
  everything,
  bursts,
  turning_points: turningPoints,
  changes,
}
