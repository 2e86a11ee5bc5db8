import { useStage } from '../../frame/stage'
import { useBenchState } from '../../live/LiveProvider'
import { isBusy } from '../../live/source'
import { Controls } from './Controls'
import { LargeReadings } from './LargeReadings'
import { LivePlots } from './LivePlots'
import { ProgrammePanel } from './ProgrammePanel'
import { StateBand } from './StateBand'

export function Record() {
  const context = useStage()
  const state = useBenchState()
  const { setup } = context
  return (
    <div className="flex h-full flex-col">
      <StateBand state={state} context={context} />
      <div className="grid min-h-0 flex-1 grid-cols-[236px_1fr_306px]">
        <ProgrammePanel setup={setup} recording={isBusy(state)} />
        <LivePlots channels={setup.channels} recording={state?.phase === 'recording'} />
        <section className="col" aria-label="Readings and controls">
          <LargeReadings setup={setup} />
          <Controls context={context} state={state} />
        </section>
      </div>
    </div>
  )
}
