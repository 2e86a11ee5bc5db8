import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { changeScaling } from '../../../api/actions'
import type { Channel, Setup } from '../../../api/client'
import { useMay } from '../../../api/queries'
import { chainQuery } from '../../../api/steps'
import { stepForm, stepsFor, type Step } from '../../../kinds/steps'
import { useLive, useReading } from '../../../live/LiveProvider'
import { attempt } from '../../../ui/notices'
import { ChainPartBox } from './ChainPartBox'
import { StepPanel } from './StepPanel'

/** From the raw signal to the reading, with what each step makes of it; steps are set here. */
export function ReadingSteps({ setup, channel }: { setup: Setup; channel: Channel }) {
  const may = useMay('change scaling')
  const live = useLive()
  useReading(channel.key) // the values follow it
  const [chosen, choose] = useState<number | null>(null)
  const now = () => {
    const reading = live.reading(channel.key)
    if (!reading || !Number.isFinite(reading.raw)) return null
    const keys = channel.steps.flatMap((s) => ('temperature' in s ? [s.temperature] : []))
    const others = keys.flatMap((k) => {
      const value = live.reading(k)?.value
      return value !== undefined && Number.isFinite(value) ? [[k, value] as const] : []
    })
    const value = Number.isFinite(reading.value) ? reading.value : null
    return { signal: reading.raw, reading: value, others: Object.fromEntries(others) }
  }
  const parts = useQuery(chainQuery(channel, now)).data ?? []
  const save = (steps: Step[]) => attempt(changeScaling(channel.id, { steps }))
  const switchLeads = (with_leads: boolean) => {
    if ('with_leads' in channel.scaling)
      void attempt(changeScaling(channel.id, { scaling: { ...channel.scaling, with_leads } }))
  }
  const at = chosen !== null && channel.steps[chosen] ? chosen : channel.steps.length ? 0 : null
  const offered = stepsFor(channel, setup)
  const add = async (kind: string) => {
    const step = stepForm(kind)?.seed(channel, setup)
    if (step && (await save([...channel.steps, step]))) choose(channel.steps.length)
  }
  return (
    <div className="@container flex min-h-0 flex-1 flex-col">
      <ol className="flex flex-none overflow-x-auto" aria-label={`Steps of ${channel.name}`}>
        {parts.map((part, i) => (
          <ChainPartBox
            key={`${part.title}-${i}`}
            part={part}
            channel={channel}
            chosen={part.step !== null && part.step === at}
            onChoose={
              part.leads && may
                ? () => switchLeads(!part.on)
                : part.step === null
                  ? undefined
                  : () => choose(part.step)
            }
          />
        ))}
        {may && offered.length > 0 && (
          <li className="flex flex-none items-center px-3">
            <select
              aria-label="Add a step"
              value=""
              onChange={(e) => void add(e.target.value)}
              className="h-7 w-28 rounded border border-dashed border-rule-strong bg-sheet px-1.5 text-small"
            >
              <option value="">Add a step…</option>
              {offered.map(([kind, label]) => (
                <option key={kind} value={kind}>
                  {label}
                </option>
              ))}
            </select>
          </li>
        )}
      </ol>
      {at === null ? (
        <p className="p-4 text-small text-soft">
          The reading is what its scaling gives. A filter or a correction is a step more: it can be
          switched off at any time, and the samples are kept without it.
        </p>
      ) : (
        <StepPanel
          key={`${channel.id}-${at}`}
          setup={setup}
          channel={channel}
          step={channel.steps[at]!}
          disabled={!may}
          onSave={(step) => save(channel.steps.map((s, i) => (i === at ? step : s)))}
          onRemove={() => void save(channel.steps.filter((_, i) => i !== at))}
        />
      )}
    </div>
  )
}
