import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import type { Channel, Setup } from '../../api/client'
import { calibrationsQuery } from '../../api/calibrations'
import { useMay } from '../../api/queries'
import { useStage } from '../../frame/stage'
import { isGauge } from '../../kinds/scalings/gauge'
import { Segments } from '../../ui/Fact'
import { ComputedPanel } from '../../computed/ComputedPanel'
import { yokeFirst } from '../../frame/yokeFirst'
import { CalibrationView } from './calibration/CalibrationView'
import { PlanForm } from './calibration/PlanForm'
import { ChannelGrid } from './ChannelGrid'
import { DisplayPanel } from './DisplayPanel'
import { ScalingPanel } from './ScalingPanel'
import { ScalingPlot } from './ScalingPlot'
import { ReadingSteps } from './steps/ReadingSteps'

export function Calibrate() {
  const { setup, bench, chosen, choose } = useStage()
  const may = useMay('zero and check channels')
  const channel = setup.channels.find((c) => c.id === chosen) ?? setup.channels[0]
  const yoke = yokeFirst(bench, may)
  const shown = useCalibration(setup, channel)
  if (!channel)
    return (
      <div className="col h-full">
        <p className="p-8">No channel is wired yet: go to Wire and give an input a sensor.</p>
      </div>
    )
  return (
    <div className="grid h-full grid-rows-[minmax(9rem,max-content)_minmax(17rem,1fr)_auto]">
      <ChannelGrid setup={setup} bench={bench} channel={channel} onChoose={choose} />
      {shown.id ? (
        <CalibrationView
          key={shown.id}
          id={shown.id}
          onClose={shown.onClose}
          {...{ setup, bench, channel }}
        />
      ) : shown.planning ? (
        <PlanForm key={channel.id} setup={setup} channel={channel} onDone={shown.onClose} />
      ) : (
        <div className="grid min-h-0 grid-cols-[300px_1fr_300px] border-t border-rule-strong">
          <ScalingPanel
            key={channel.id}
            channel={channel}
            zeroWaits={yoke('zero')}
            setupId={setup.id}
            onCalibrate={isGauge(channel) ? undefined : shown.onPlan}
          />
          <Middle setup={setup} channel={channel} />
          <DisplayPanel
            channel={channel}
            shuntWaits={yoke('shunt check')}
            balanceWaits={yoke('balance')}
            setupId={setup.id}
          />
        </div>
      )}
      {!shown.id && !shown.planning && (
        <ComputedPanel setup={setup} open={!setup.computed.length} />
      )}
    </div>
  )
}

/** The calibration that is shown of a channel: the one under way, or one that just ended. */
function useCalibration(setup: Setup, channel: Channel | undefined) {
  const lines = useQuery(calibrationsQuery(setup.id)).data ?? []
  const [planning, plan] = useState<string | null>(null)
  const [closed, close] = useState<readonly number[]>([])
  const [seen, see] = useState<readonly number[]>([])
  const own = lines.filter((l) => l.channel_key === channel?.key)
  const open = own.find((l) => l.state === 'under way')
  if (open && !seen.includes(open.id)) see([...seen, open.id])
  const ended = own.find((l) => seen.includes(l.id) && !closed.includes(l.id))
  const id = (open ?? ended)?.id
  return {
    id,
    planning: planning === channel?.key,
    onPlan: () => plan(channel?.key ?? null),
    onClose: () => {
      plan(null)
      if (id) close([...closed, id])
    },
  }
}

/** The scaling as a line, or the steps from the raw signal to the reading. */
function Middle({ setup, channel }: { setup: Setup; channel: Channel }) {
  const [shown, show] = useState<'line' | 'steps'>('line')
  return (
    <section className="col" aria-label="Reading">
      <div className="bar">
        <Segments
          label="Shown of the channel"
          options={[
            ['line', 'Scaling line'],
            ['steps', channel.steps.length ? `Steps, ${channel.steps.length}` : 'Steps'],
          ]}
          value={shown}
          onChange={show}
        />
      </div>
      {shown === 'line' ? (
        <ScalingPlot channel={channel} />
      ) : (
        <ReadingSteps key={channel.id} setup={setup} channel={channel} />
      )}
    </section>
  )
}
