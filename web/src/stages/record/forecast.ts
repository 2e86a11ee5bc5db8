import type { Setup } from '../../api/client'
import { amount, duration } from '../../ui/format'

type Forecast = Setup['forecast']

/** What a rule is to keep, beside its name. */
export const foretold = (rule: Forecast['rules'][number] | undefined): string =>
  rule ? `${rule.at_least ? 'from ' : ''}${amount(rule.nbytes)}` : ''

/** What the next run is to come to. */
export function forecastWords({ seconds, is_known, nbytes, rules }: Forecast): string {
  const more = rules.some((r) => r.at_least) ? 'at least ' : ''
  const span = is_known ? `The ${duration(seconds)} of the run take` : 'An hour takes'
  return `${span} ${more}${amount(nbytes)}.`
}
