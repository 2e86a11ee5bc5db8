import { formOf, type Forms, type KeepRule } from '../form'
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

/** A stream's rule, named by its kind and a number, in words. */
export function keptAs(name: string): string {
  const [, kind = '', number = ''] = /^(.*?)( \d+)?$/.exec(name) ?? []
  const form = kind in KEEP_RULES ? formOf(KEEP_RULES, kind) : undefined
  return (form ? form.label.toLowerCase() : kind) + number
}
