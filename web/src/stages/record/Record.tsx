import { Link } from 'react-router'

import { ComputedPanel } from '../../computed/ComputedPanel'
import { useStage } from '../../frame/stage'
import { useBenchState } from '../../live/LiveProvider'
import { isBusy } from '../../live/source'
import { digits, Digits } from '../../panes/digits'
import { Controls } from './Controls'
import { GuardBars } from './GuardBars'
import { KeepRules } from './KeepRules'
import { Legs } from './Legs'
import { Markers } from './Markers'
import { ProgrammePanel } from './ProgrammePanel'
import { StateBand } from './StateBand'
import { Views } from './Views'

/** Where the signals are looked at before a test is spent on them. */
function ToSignalCheck({ setup }: { setup: number }) {
  return (
    <Link
      to={`/setups/${setup}/record/signals`}
      className="flex h-8 flex-none items-center border-t border-rule px-3.5 text-small underline"
    >
      Signal check
    </Link>
  )
}

export function Record() {
  const context = useStage()
  const state = useBenchState()
  const { setup } = context
  const recording = state?.phase === 'recording'
  return (
    <div className="flex h-full flex-col">
      <StateBand state={state} context={context} />
      <div className="grid min-h-0 flex-1 grid-cols-[236px_1fr_306px]">
        {recording && state.programme && setup.paper ? (
          <div className="col overflow-y-auto">
            <Legs setup={setup} state={state} />
            <KeepRules setup={setup} kept={state.kept} />
          </div>
        ) : (
          <ProgrammePanel setup={setup} recording={isBusy(state)} />
        )}
        <section className="col" aria-label="Live plots">
          <Views setup={setup} recording={recording} />
          <ComputedPanel setup={setup} open={false} />
        </section>
        <section className="col" aria-label="Readings and controls">
          <Digits channels={digits.proposes(setup)} options={digits.options} />
          <GuardBars setup={setup} beyond={recording ? state.tripped : null} />
          {recording && state.run !== null && <Markers run={state.run} />}
          {!isBusy(state) && <ToSignalCheck setup={setup.id} />}
          <Controls context={context} state={state} />
        </section>
      </div>
    </div>
  )
}
