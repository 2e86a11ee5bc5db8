import * as actions from '../api/actions'
import type { StageContext } from '../frame/stage'
import { formOf } from '../kinds/form'
import { MOTIONS } from '../kinds/motions'
import { isBusy, type BenchState } from '../live/source'
import { InRun } from '../stages/record/Controls'
import { Button } from '../ui/Button'

/** What a technician does from afar, for whoever has the yoke. */
export function FarControls(props: { context: StageContext; state: BenchState | null }) {
  const { context, state } = props
  const { setup } = context
  const busy = isBusy(state)
  const blocking = setup.preflight.find((g) => g.blocks)
  return (
    <>
      <Button
        look="go"
        size={44}
        shortcut="F8"
        waits={busy ? undefined : blocking?.text}
        onClick={() => void actions.startOrStop(setup, busy)}
      >
        {busy ? 'Stop recording' : formOf(MOTIONS, setup.motion.kind!).start}
      </Button>
      {state?.phase === 'recording' && state.run !== null && (
        <InRun state={state} run={state.run} />
      )}
    </>
  )
}

/** Everybody's, whoever has the yoke. */
export function FarStop({ bench }: { bench: number }) {
  return (
    <Button
      look="stop"
      size={44}
      shortcut="Esc Esc"
      onClick={() => void actions.emergencyStop(bench)}
    >
      Emergency stop
    </Button>
  )
}
