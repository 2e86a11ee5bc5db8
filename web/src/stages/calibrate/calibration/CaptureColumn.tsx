import { useEffect, useRef, useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'

import {
  captureStep,
  leaveOutStep,
  type Calibration,
  type PlanStep,
} from '../../../api/calibrations'
import { pretend, putOnBench } from '../../../api/actions'
import type { Bench, Channel, Setup } from '../../../api/client'
import { useMay } from '../../../api/queries'
import { PAGE_KEYS } from '../../../frame/pageKeys'
import { yokeFirst } from '../../../frame/yokeFirst'
import { useReading } from '../../../live/LiveProvider'
import { Button } from '../../../ui/Button'
import { InputSign } from '../../../ui/Diamond'
import { figure } from '../../../ui/format'
import { attempt } from '../../../ui/notices'
import { fromSi } from '../../../ui/units'
import { largestOf, nearness, steadyIn, stepWords } from './figures'
import { STEADY_S, useSteady } from './useSteady'

interface Props {
  calibration: Calibration
  setup: Setup
  bench: Bench
  channel: Channel
}

/** The load to put on next, how steady it is, and the steps so far. */
export function CaptureColumn({ calibration, setup, bench, channel }: Props) {
  const [chosen, choose] = useState<number | null>(null)
  const next = calibration.steps.find((s) => s.number === calibration.next_step)
  const again = chosen === null ? undefined : calibration.steps[chosen]
  const step = again ?? next
  const putFirst = yokeFirst(bench, useMay('drive the bench'))('put it on the bench')
  return (
    <div className="col">
      <div className="flex items-center gap-2 px-4 pt-3">
        <InputSign signal={channel.signal} size={20} active={channel.active_arms} inside="none" />
        <h2 className="truncate">{channel.name}, calibration</h2>
      </div>
      <p className="px-4 pb-2 text-small leading-4 text-soft">{calibration.reference}</p>
      {calibration.state !== 'under way' ? (
        <p className="px-4 py-2">
          <b className="font-strong">{calibration.state}</b>
          {calibration.certificate && `, certificate ${calibration.certificate}`}
        </p>
      ) : setup.preflight.some((i) => i.code === 'other_setup') ? (
        <div className="flex flex-col gap-2 bg-marking-wash px-4 py-3">
          <p>The bench works with another setup.</p>
          <Button look="go" size={36} {...putFirst} onClick={() => void putOnBench(setup)}>
            Put {setup.name} on the bench
          </Button>
        </div>
      ) : step ? (
        <Capturing
          key={step.number}
          step={step}
          again={!!again}
          onDone={() => choose(null)}
          {...{ calibration, setup, bench, channel }}
        />
      ) : (
        <p className="bg-marking-wash px-4 py-3">
          <b className="font-strong">All steps are captured.</b> An engineer puts it in force.
        </p>
      )}
      <Steps calibration={calibration} channel={channel} chosen={step?.number} onChoose={choose} />
    </div>
  )
}

interface CapturingProps extends Props {
  step: PlanStep
  again: boolean
  onDone: () => void
}

function Capturing({ calibration, setup, bench, channel, step, again, onDone }: CapturingProps) {
  const key = calibration.reference_key ?? channel.key
  const source = setup.channels.find((c) => c.key === key) ?? channel
  const reading = useReading(key)
  const range = calibration.steady * largestOf(calibration)
  const steady = useSteady(key, range)
  const near = !!reading && Math.abs(reading.value - step.load) < nearness(calibration)
  const may = useMay('zero and check channels')
  const yoke = yokeFirst(bench, may)('capture')
  const [busy, setBusy] = useState(false)
  const capture = async () => {
    if (busy || yoke.waits) return
    setBusy(true)
    if (await attempt(captureStep(calibration.id, step.number))) onDone()
    setBusy(false)
  }
  const left = useSecondsTo(step.due_at)
  useOwnAccord(near && steady >= STEADY_S && !again && !yoke.waits && !left, capture)
  useHotkeys('space', () => void capture(), { ...PAGE_KEYS, preventDefault: true })
  const waiting = left ? `${left} s more with this load on.` : !near ? 'Not at this load yet.' : `Steady for ${figure(steady, 1)} of ${STEADY_S.toFixed(1)} s, within ${+steadyIn(calibration, source.unit).toPrecision(2)} ${source.unit}.` // prettier-ignore
  return (
    <>
      <div className="border-l-4 border-marking bg-marking-wash px-3 py-2.5">
        <p aria-live="polite">
          <span className="font-strong">{stepWords(step)}</span>
          <span className="flex items-baseline gap-2">
            <span className="figure text-[44px] leading-12 font-number">
              {+fromSi(step.load, channel.unit).toPrecision(5)}
            </span>
            <span className="text-lead text-soft">{channel.unit}</span>
          </span>
        </p>
        <p className="flex items-baseline gap-2">
          <span className="figure text-title font-number">
            {figure(reading && fromSi(reading.value, source.unit), source.decimals + 1)}
          </span>
          <span className="truncate text-soft">
            {source.unit} {source === channel ? 'now' : `by ${source.name} now`}
          </span>
        </p>
        <div className="my-1 h-2 border border-rule-strong bg-sheet" aria-hidden="true">
          <div
            className="h-full bg-marking"
            style={{ width: `${near ? (steady / STEADY_S) * 100 : 0}%` }}
          />
        </div>
        <p className="min-h-8 text-small leading-4">
          {busy ? 'Capturing…' : waiting} {!busy && !again && 'Captures itself.'}
        </p>
      </div>
      <div className="flex flex-wrap gap-2 px-4 pt-3">
        <Button
          look="go"
          size={36}
          shortcut="Space"
          {...yoke}
          disabled={busy}
          onClick={() => void capture()}
        >
          {again ? 'Capture again' : 'Capture now'}
        </Button>
        {again && <LeaveOut calibration={calibration} step={step} onDone={onDone} />}
        <StandInLoad {...{ calibration, bench, channel, source, step }} />
      </div>
    </>
  )
}

/** Whole seconds until an instant; 0 once it is past, or without one. */
function useSecondsTo(due?: string | null): number {
  const [now, setNow] = useState(() => Date.now())
  useEffect(() => {
    if (!due) return
    const tick = setInterval(() => setNow(Date.now()), 250)
    return () => clearInterval(tick)
  }, [due])
  return due ? Math.max(0, Math.ceil((Date.parse(due) - now) / 1000)) : 0
}

/** Capture once by itself as soon as it may; a refusal is followed by a new wait. */
function useOwnAccord(ready: boolean, capture: () => Promise<void>) {
  const latest = useRef(capture)
  useEffect(() => {
    latest.current = capture
  })
  useEffect(() => {
    if (!ready) return
    void latest.current()
    const again = setInterval(() => void latest.current(), STEADY_S * 1000)
    return () => clearInterval(again)
  }, [ready])
}

/** Of a stand-in somebody else turns the sensor and puts the load on. */
function StandInLoad(props: {
  calibration: Calibration
  bench: Bench
  channel: Channel
  source: Channel
  step: PlanStep
}) {
  const { calibration, bench, channel, source, step } = props
  const device = bench.devices.find((d) => d.id === source.device_id)
  if (!device?.capabilities.includes('pretends') || !bench.yoke_mine) return null
  const put = async () => {
    if (calibration.plan.rotations.some((r) => r > 0))
      await pretend(channel.device_id, channel.input_number, `turn ${step.rotation}`)
    await pretend(device.id, source.input_number, `load ${step.load}`)
  }
  return (
    <Button size={36} onClick={() => void put()}>
      Stand-in: put it on
    </Button>
  )
}

function LeaveOut(props: { calibration: Calibration; step: PlanStep; onDone: () => void }) {
  const { calibration, step, onDone } = props
  const [reason, setReason] = useState('')
  const leave = async () => {
    if (await attempt(leaveOutStep(calibration.id, step.number, reason.trim()))) onDone()
  }
  return (
    <div className="flex w-full items-center gap-2 text-small">
      <input
        aria-label="Reason to leave it out"
        placeholder="Reason"
        value={reason}
        maxLength={200}
        onChange={(e) => setReason(e.target.value)}
        className="h-7 min-w-0 flex-1 rounded border border-rule-strong bg-paper px-2"
      />
      <Button disabled={reason.trim().length < 3} onClick={() => void leave()}>
        Leave out
      </Button>
      <Button onClick={onDone}>Back</Button>
    </div>
  )
}

/** All steps as a row of marks, series by series; a press on one that was captured redoes it. */
function Steps(props: {
  calibration: Calibration
  channel: Channel
  chosen?: number
  onChoose: (step: number) => void
}) {
  const { calibration, channel, chosen, onChoose } = props
  const open = calibration.state === 'under way'
  const series = [...new Set(calibration.steps.map((s) => s.series))]
  return (
    <div className="min-h-0 flex-1 overflow-auto px-4 pt-3 pb-2">
      {series.map((n) => (
        <div key={n} className="flex items-end gap-0.5 pb-2">
          <span className="w-8 flex-none text-note text-soft">
            {n < 0 ? 'pre' : n < calibration.plan.rotations.length ? `${n + 1}` : 'creep'}
            {n >= 0 && calibration.steps.find((s) => s.series === n)!.rotation > 0 && (
              <span> {calibration.steps.find((s) => s.series === n)!.rotation}°</span>
            )}
          </span>
          {calibration.steps
            .filter((s) => s.series === n)
            .map((s) => (
              <button
                key={s.number}
                type="button"
                disabled={!open || (!s.captured && !s.left_out)}
                aria-label={`Step ${s.number + 1}, ${stepWords(s)} ${+fromSi(s.load, channel.unit).toPrecision(3)} ${channel.unit}${s.left_out ? `, left out: ${s.left_out}` : s.captured ? ', captured' : ''}`}
                title={s.left_out || undefined}
                onClick={() => onChoose(s.number)}
                className="flex-1 text-center text-note leading-4"
              >
                <span className={`block h-1.5 ${markOf(s, chosen)}`} />
                <span className={s.left_out ? 'line-through' : ''}>
                  {s.after_s ? `${s.after_s} s` : +fromSi(s.load, channel.unit).toPrecision(3)}
                </span>
              </button>
            ))}
        </div>
      ))}
    </div>
  )
}

const markOf = (s: PlanStep, chosen?: number): string =>
  s.number === chosen
    ? 'bg-marking'
    : s.left_out
      ? 'border border-dashed border-rule-strong'
      : s.captured
        ? 'bg-petrol'
        : 'bg-rule'
