import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { uncertaintyQuery } from '../../api/calibrations'
import type { Channel } from '../../api/client'
import { useLive } from '../../live/LiveProvider'
import { Button } from '../../ui/Button'
import { Fact, Section } from '../../ui/Fact'
import { figure } from '../../ui/format'
import { fromSi, spanFromSi } from '../../ui/units'

/** What the reading as it is now is uncertain by; asked for, since it stands for one moment. */
export function ReadingUncertainty({ channel: c }: { channel: Channel }) {
  const live = useLive()
  const [at, ask] = useState<{ reading: number; deviation: number } | null>(null)
  const found = useQuery({ ...uncertaintyQuery(c.id, at), placeholderData: keepPreviousData }).data
  const take = () => {
    const now = live.reading(c.key)
    if (now && Number.isFinite(now.value))
      ask({ reading: now.value, deviation: Number.isFinite(now.deviation) ? now.deviation : 0 })
  }
  const decimals = c.decimals + 1
  return (
    <Section title="Uncertainty">
      {found && at && (
        <>
          <p className="leading-6">
            <span className="figure text-lead font-number">
              {figure(fromSi(at.reading, c.unit), c.decimals)} ±{' '}
              {figure(spanFromSi(found.expanded, c.unit), decimals)}
            </span>{' '}
            <span className="text-soft">
              {c.unit}, k = {found.factor.toFixed(2)}
            </span>
          </p>
          {found.terms.map((t) => (
            <Fact key={t.name} name={t.name}>
              <span className="figure">{figure(spanFromSi(t.standard, c.unit), decimals + 1)}</span>{' '}
              {c.unit}
            </Fact>
          ))}
          {found.lacks.map((why) => (
            <p key={why} className="py-0.5 text-small leading-4 text-marking-ink">
              Not in it: {why}
            </p>
          ))}
        </>
      )}
      <Button onClick={take}>{at ? 'Ask anew' : `How sure is ${c.name} now?`}</Button>
    </Section>
  )
}
