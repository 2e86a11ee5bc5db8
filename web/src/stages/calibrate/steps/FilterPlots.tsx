import { useQuery } from '@tanstack/react-query'
import { useCallback, useMemo } from 'react'
import type uPlot from 'uplot'

import { ProblemError, type Channel, type Setup } from '../../../api/client'
import { filterQuery } from '../../../api/steps'
import type { Step } from '../../../kinds/steps'
import { Plot } from '../../../plots/Plot'
import { significant } from '../../../ui/format'

const FLOOR_DB = -80
const CURVES = [{ name: '', colour: '--curve-1' }]
const decibels = (ratio: number) => Math.max(FLOOR_DB, 20 * Math.log10(Math.max(ratio, 1e-9)))

/** What a filter does at the channel's rate: its response, what becomes of a step, its delay. */
export function FilterPlots({
  setup,
  channel,
  step,
}: {
  setup: Setup
  channel: Channel
  step: Step
}) {
  const rate = setup.rates.find((r) => r.device_label === channel.device_label)?.rate_hz ?? 0
  const { data: shape, error } = useQuery(filterQuery(channel, step, rate))
  const response = useMemo(
    () =>
      [
        shape?.frequencies_hz.map((f) => Math.log10(f)) ?? [],
        shape?.amplitudes.map(decibels) ?? [],
      ] as uPlot.AlignedData,
    [shape],
  )
  const answer = useMemo(
    () => [shape?.times_s.map((t) => t * 1e3) ?? [], shape?.step ?? []] as uPlot.AlignedData,
    [shape],
  )
  const responseData = useCallback(() => response, [response])
  const answerData = useCallback(() => answer, [answer])
  if (error) {
    const { title, hint } = ProblemError.of(error)
    return (
      <p role="alert" className="p-4 text-small text-signal">
        {title} {hint}
      </p>
    )
  }
  return (
    <div className="flex min-h-0 min-w-0 flex-col">
      <div className="hidden min-h-0 flex-1 @lg:flex">
        <Plot
          curves={CURVES}
          data={responseData}
          xName="Frequency"
          xUnit="Hz, powers of ten"
          yName="Amplitude"
          yUnit="dB"
          yRange={() => [FLOOR_DB, 6]}
          label="Response of the filter"
        />
        <Plot
          curves={CURVES}
          data={answerData}
          xName="Time"
          xUnit="ms"
          yName="Answer to a step"
          yUnit=""
          label="The filter's answer to a step"
        />
      </div>
      {shape && (
        <p className="px-3 pb-1.5 text-small leading-4 text-soft">
          A slow change comes{' '}
          <span className="figure text-ink">{significant(shape.delay_s * 1e3)}</span> ms late; it
          has settled after{' '}
          <span className="figure text-ink">{significant(shape.settles_s * 1e3)}</span> ms. At{' '}
          <span className="figure">{shape.rate_hz}</span> samples a second.
          {shape.warning && <b className="block font-strong text-marking-ink">{shape.warning}</b>}
        </p>
      )}
    </div>
  )
}
