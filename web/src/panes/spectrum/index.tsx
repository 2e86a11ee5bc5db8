import { useQuery } from '@tanstack/react-query'
import { useCallback, useMemo } from 'react'
import type uPlot from 'uplot'

import { ProblemError } from '../../api/client'
import { spectrumNow } from '../../api/signals'
import { useIsStill } from '../../live/LiveProvider'
import { Plot } from '../../plots/Plot'
import { readablesOf } from '../../readable'
import { figure } from '../../ui/format'
import { spanFromSi } from '../../ui/units'
import { lookOf } from '../colours'
import type { Pane, PaneProps } from '../pane'

const EVERY = 2500 // ms; each look takes two seconds of samples
const DECADES = 1e-4 // of the highest line, that are shown below it

export const spectrum: Pane<Record<string, never>> = {
  title: 'Spectrum now',
  fits: (c) => !!c.measured,
  room: 1,
  proposes: (setup) =>
    readablesOf(setup)
      .filter((c) => c.measured)
      .slice(0, 1),
  lacks: (_, channels) => (channels.length ? '' : 'Choose a measured channel.'),
  options: {},
  Component: Spectrum,
}

/** Amplitudes of the last two seconds of a channel, from its samples in the recorder. */
function Spectrum({ setup, channels }: PaneProps<Record<string, never>>) {
  const c = channels[0]!
  const still = useIsStill()
  const { data: found, error } = useQuery({
    queryKey: ['spectrum now', setup.id, c.key],
    queryFn: () => spectrumNow(setup.id, c.key),
    refetchInterval: EVERY,
    enabled: !still,
    retry: false,
    placeholderData: (before) => before,
  })
  const made = useMemo<uPlot.AlignedData>(() => {
    const step = found ? found.rate_hz / 2 / Math.max(1, found.amplitude.length) : 1
    return [
      (found?.amplitude ?? []).map((_, i) => (i + 0.5) * step),
      (found?.amplitude ?? []).map((v) => (v && v > 0 ? spanFromSi(v, c.unit) : null)),
    ]
  }, [found, c.unit])
  const data = useCallback(() => made, [made])
  const { colour } = lookOf(setup, c.key)
  const curves = useMemo(() => [{ name: '', colour }], [colour])
  if (error) {
    const { title, hint } = ProblemError.of(error)
    return (
      <p className="m-auto max-w-80 p-4 text-center text-soft">
        {title} {hint}
      </p>
    )
  }
  if (found && found.amplitude.length === 0)
    return <p className="m-auto p-4 text-soft">There is no spectrum while {c.name} clips.</p>
  const highest = (made[1] as (number | null)[]).reduce<number>((m, v) => Math.max(m, v ?? 0), 0)
  const noise = found?.noise == null ? '–' : figure(spanFromSi(found.noise, c.unit), c.decimals + 1)
  return (
    <Plot
      curves={curves}
      data={data}
      logY
      yRange={() => [(highest || 1) * DECADES, (highest || 1) * 3]}
      xName="Frequency"
      xUnit="Hz"
      yName={`${c.name}, spectrum of 2 s`}
      yUnit={`${c.unit}; deviation ${noise}`}
      label={`Spectrum of ${c.name} now`}
    />
  )
}
