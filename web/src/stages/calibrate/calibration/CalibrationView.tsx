import { useQuery } from '@tanstack/react-query'

import { calibrationQuery } from '../../../api/calibrations'
import type { Bench, Channel, Setup } from '../../../api/client'
import { CaptureColumn } from './CaptureColumn'
import { ResidualPlot } from './ResidualPlot'
import { VerdictColumn } from './VerdictColumn'

interface Props {
  id: number
  setup: Setup
  bench: Bench
  channel: Channel
  onClose: () => void
}

/** A calibration under way, or done: the load to put on, the residuals, what it comes to. */
export function CalibrationView({ id, setup, bench, channel, onClose }: Props) {
  const calibration = useQuery(calibrationQuery(id)).data
  if (!calibration) return <p className="p-4 text-soft">Loading…</p>
  return (
    <section
      aria-label="Calibration"
      className="grid min-h-0 grid-cols-[284px_1fr_272px] border-t border-rule-strong"
    >
      <CaptureColumn calibration={calibration} setup={setup} bench={bench} channel={channel} />
      <ResidualPlot calibration={calibration} channel={channel} />
      <VerdictColumn calibration={calibration} channel={channel} onClose={onClose} />
    </section>
  )
}
