import type { Setup } from '../../api/client'
import { formOf } from '../../kinds/form'
import { KEEP_RULES } from '../../kinds/keepRules'
import type { BenchState } from '../../live/source'
import { readablesOf } from '../../readable'
import { amount, figure } from '../../ui/format'
import { forecastWords } from './forecast'

/** Each keep rule with what it has kept so far. */
export function KeepRules({ setup, kept }: { setup: Setup; kept: BenchState['kept'] }) {
  const channels = readablesOf(setup)
  const total = kept.reduce((sum, one) => sum + one.nbytes, 0)
  return (
    <section aria-label="Keep rules">
      <div className="bar">
        <h2>Keep rules</h2>
        <span className="figure ml-auto text-small text-soft">{amount(total)} kept</span>
      </div>
      <ul>
        {setup.keep_rules.map((rule, at) => {
          const { label, says } = formOf(KEEP_RULES, rule.kind)
          const own = kept.find((one) => one.rule === at)
          return (
            <li key={at} className="border-b border-rule px-4 py-1.5 text-small leading-4.5">
              <span className="flex justify-between gap-2">
                <b className="font-strong">{label}</b>
                <span className="figure">{amount(own?.nbytes ?? 0)}</span>
              </span>
              <span className="flex justify-between gap-2 text-soft">
                <span>{says?.(rule, channels)}</span>
                <span className="figure flex-none">{figure(own?.samples ?? 0, 0)}</span>
              </span>
            </li>
          )
        })}
      </ul>
      <p className="px-4 py-2 text-small text-soft">{forecastWords(setup.forecast)}</p>
    </section>
  )
}
