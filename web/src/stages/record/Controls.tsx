import * as actions from '../../api/actions'
import { useMay } from '../../api/queries'
import type { StageContext } from '../../frame/stage'
import { isBusy, type BenchState } from '../../live/source'
import { Button } from '../../ui/Button'

function waitsFor(context: StageContext, may: boolean): string | undefined {
  const { setup, bench } = context
  if (!may) return 'Reviewers only watch'
  if (!bench.yoke_mine)
    return bench.yoke_holder && !bench.yoke_me_elsewhere
      ? `${bench.yoke_holder} holds the yoke`
      : 'Take the yoke first'
  return setup.channels.length ? undefined : 'Wire a channel first'
}

const START = {
  none: 'Start recording',
  ramp: 'Start the pull',
  force_ramp: 'Start loading',
  force_sine: 'Start cycling',
}

/** The next step of a run, and what is missing for it. */
export function Controls({ context, state }: { context: StageContext; state: BenchState | null }) {
  const { setup, bench } = context
  const may = useMay('drive the bench')
  const waits = waitsFor(context, may)
  const recording = isBusy(state)
  const blocking = setup.preflight.find((g) => g.blocks)
  const elsewhere = blocking?.code === 'other_setup'
  const idleAway = !recording && !state?.latched && blocking?.code === 'actuator_not_home'
  return (
    <div className="flex flex-none flex-col gap-2 border-t border-rule-strong bg-paper p-3.5">
      {!recording && (
        <ul className="text-small leading-4">
          {setup.preflight.slice(0, 3).map((g) => (
            <li key={g.text} className="font-number text-marking-ink">
              {g.text}
            </li>
          ))}
        </ul>
      )}
      {may && !bench.yoke_mine && (
        <Button
          look={bench.yoke_holder && !bench.yoke_me_elsewhere ? 'plain' : 'go'}
          size={44}
          waits={bench.yoke_holder && !bench.yoke_me_elsewhere ? waits : undefined}
          onClick={() => void actions.takeYoke(bench.id)}
        >
          Take the yoke
        </Button>
      )}
      {recording ? (
        <Button
          look="go"
          size={56}
          shortcut="F8"
          waits={waits}
          onClick={() => void actions.stopBench(bench.id)}
        >
          Stop recording
        </Button>
      ) : (
        bench.yoke_mine &&
        !idleAway &&
        !elsewhere && (
          <Button
            look="go"
            size={56}
            shortcut="F8"
            waits={waits ?? blocking?.text}
            onClick={() => void actions.startOrStop(setup, isBusy(state))}
          >
            {START[setup.motion.kind ?? 'none']}
          </Button>
        )
      )}
      {bench.yoke_mine && !recording && elsewhere && (
        <Button look="go" size={56} onClick={() => void actions.putOnBench(setup)}>
          Put {setup.name} on the bench
        </Button>
      )}
      {bench.yoke_mine && idleAway && (
        <Button
          look="go"
          size={56}
          shortcut="N"
          waits={state?.motion === 'RETURN' ? 'The actuator returns' : undefined}
          onClick={() => void actions.returnForNext(setup)}
        >
          Return, then fit {setup.next_specimen || 'the next'}
        </Button>
      )}
      <Button
        look="stop"
        size={44}
        shortcut="Esc Esc"
        onClick={() => void actions.emergencyStop(bench.id)}
      >
        Emergency stop
      </Button>
    </div>
  )
}
