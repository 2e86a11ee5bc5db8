import { useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'

import * as actions from '../../api/actions'
import type { Setup } from '../../api/client'
import { useMay } from '../../api/queries'
import { PAGE_KEYS } from '../../frame/pageKeys'
import type { StageContext } from '../../frame/stage'
import { formOf } from '../../kinds/form'
import { MOTIONS } from '../../kinds/motions'
import { isBusy, type BenchState } from '../../live/source'
import { Button } from '../../ui/Button'
import { attempt } from '../../ui/notices'

function waitsFor(context: StageContext, may: boolean): string | undefined {
  const { setup, bench } = context
  if (!may) return 'Reviewers only watch'
  if (!bench.yoke_mine)
    return bench.yoke_holder && !bench.yoke_me_elsewhere
      ? `${bench.yoke_holder} holds the yoke`
      : 'Take the yoke first'
  return setup.channels.length ? undefined : 'Wire a channel first'
}

/** Pause, or go on, and markers of the run that is recorded. */
export function InRun(props: { state: BenchState; run: number; waits?: string }) {
  const { state, run, waits } = props
  const [marking, setMarking] = useState(false)
  const waiting = state.paused || state.programme?.waits
  const nothingYet = state.waiting ? 'Nothing is kept yet' : undefined
  const turn = () => void actions.commandRun(run, waiting ? 'go_on' : 'pause')
  useHotkeys('f9', () => !waits && !nothingYet && turn(), { ...PAGE_KEYS, preventDefault: true })
  useHotkeys('f10', () => setMarking(true), { ...PAGE_KEYS, preventDefault: true })
  if (marking) return <MarkerField run={run} onDone={() => setMarking(false)} />
  return (
    <div className="grid grid-cols-2 gap-2">
      <Button
        look={waiting ? 'go' : 'plain'}
        size={44}
        shortcut="F9"
        waits={waits ?? nothingYet}
        onClick={turn}
      >
        {waiting ? 'Go on' : 'Pause'}
      </Button>
      <Button size={44} shortcut="F10" onClick={() => setMarking(true)}>
        Marker
      </Button>
    </div>
  )
}

function MarkerField({ run, onDone }: { run: number; onDone: () => void }) {
  const [text, setText] = useState('')
  const save = async () => {
    if (!text.trim() || (await actions.markRun(run, text.trim()))) onDone()
  }
  return (
    <input
      autoFocus
      aria-label="Marker"
      placeholder="What is it? Enter keeps it"
      value={text}
      maxLength={200}
      onChange={(e) => setText(e.target.value)}
      onKeyDown={(e) => {
        if (e.key === 'Enter') void save()
        if (e.key === 'Escape') onDone()
      }}
      className="h-11 rounded border-2 border-petrol bg-sheet px-3 text-lead"
    />
  )
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
        <ul className="max-h-32 overflow-y-auto text-small leading-4">
          {setup.proposed_guards.length > 0 && bench.yoke_mine && (
            <li>
              <ProposedGuards setup={setup} />
            </li>
          )}
          {setup.preflight.map((g) => (
            <li key={g.text} className="font-number text-marking-ink" title={g.hint}>
              {g.text}
            </li>
          ))}
          {setup.preflight.length > 0 && !blocking && bench.yoke_mine && (
            <li className="text-soft">Starting accepts this by your name.</li>
          )}
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
          {state?.dry ? 'End the dry run' : state?.waiting ? 'Stop waiting' : 'Stop recording'}
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
            {formOf(MOTIONS, setup.motion.kind!).start}
          </Button>
        )
      )}
      {!recording && bench.yoke_mine && !waits && !blocking && (
        <Button
          size={44}
          shortcut="F6"
          onClick={() => void actions.startOrStop(setup, false, true)}
        >
          Dry run
        </Button>
      )}
      {may && state?.phase === 'recording' && state.run !== null && (
        <InRun state={state} run={state.run} waits={waits} />
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

/** What a bench that moves asks for: one press takes what its sensors bear. */
function ProposedGuards({ setup }: { setup: Setup }) {
  const guards = [...setup.guards, ...setup.proposed_guards]
  return (
    <Button
      size={28}
      className="mb-1"
      onClick={() => void attempt(actions.changeSetup(setup.id, { guards }))}
    >
      Guard {setup.proposed_guards.map((g) => nameOf(setup, g.channel)).join(', ')} at capacity
    </Button>
  )
}

const nameOf = (setup: Setup, key: string): string =>
  setup.channels.find((c) => c.key === key)?.name ?? ''
