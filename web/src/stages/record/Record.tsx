import { useQuery } from '@tanstack/react-query'
import type { ReactNode } from 'react'

import type { Channel } from '../../api/client'
import * as deeds from '../../api/deeds'
import { runsQuery, useMay } from '../../api/queries'
import { insideOf } from '../../bench-strip/BenchStrip'
import { useStage, type StageContext } from '../../frame/stage'
import { useBenchState, useConnection, useReading } from '../../live/LiveProvider'
import { isBusy, type BenchState } from '../../live/source'
import { Button } from '../../ui/Button'
import { InputSign } from '../../ui/Diamond'
import { duration, figure } from '../../ui/format'
import { fromSi } from '../../ui/units'
import { Reading } from '../../ui/Reading'
import { LivePlots } from './LivePlots'
import { ProgrammePanel } from './ProgrammePanel'

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
          <div
            className="min-h-0 flex-1 overflow-auto"
            tabIndex={0}
            role="group"
            aria-label="Readings"
          >
            {setup.rosettes.map(({ name, key }) => (
              <PrincipalStrain key={key} of={key} name={name} />
            ))}
            {setup.channels.map((c) => (
              <Digits key={c.id} channel={c} />
            ))}
          </div>
          <Controls context={context} state={state} />
        </section>
      </div>
    </div>
  )
}

const BUSY: Record<string, string> = {
  arming: 'Confirming settings',
  beginning: 'Beginning',
  recording: 'Recording',
}

const MOTION: Record<string, string> = {
  RAMP: 'Pulling',
  FORCE: 'Loading',
  SINE: 'Cycling',
  RETURN: 'Returning',
  HOLD: 'Holding',
  TRIPPED: 'Stopped at a limit',
}

/** What is happening, in words and colour. */
function StateBand({ state, context }: { state: BenchState | null; context: StageContext }) {
  const { setup } = context
  const runs = useQuery(runsQuery(setup.id)).data
  const last = runs?.at(-1)
  const recording = state?.phase === 'recording'
  const arriving = useConnection() === 'live'
  const absent = Object.entries(state?.devices ?? {})
    .filter(([, device]) => device.why_not)
    .map(([label]) => label)
  const away = setup.gaps.some((g) => g.code === 'actuator_not_home')
  const ready = setup.gaps.length === 0
  const busy = isBusy(state)
  return (
    <section
      aria-label="State"
      className={`flex h-14 flex-none items-center gap-9 px-5 whitespace-nowrap ${
        busy ? 'bg-band text-on-band' : 'border-b border-rule bg-paper'
      }`}
    >
      <span className="flex items-center gap-3">
        <span
          aria-hidden
          className={`size-4 flex-none ${
            busy
              ? 'rounded-full bg-on-band'
              : ready
                ? 'rounded-full border-2 border-moss'
                : 'rotate-45 border-2 border-signal'
          }`}
        />
        <h1 className="text-[22px]! font-[680]" style={{ fontStretch: '108%' }}>
          {busy && state
            ? BUSY[state.phase]
            : ready
              ? 'Ready'
              : away
                ? 'Return first'
                : 'Not ready'}
        </h1>
      </span>
      <Item name="Run" words={recording ? state.run_name : `next: ${setup.next_run_name}`} />
      {state?.motion && (
        <Item
          name="Actuator"
          words={MOTION[state.motion] ?? state.motion}
          figure={`${figure((state.position_m ?? 0) * 1e3, 2)} mm`}
        />
      )}
      {recording && state.cycles != null && <Cycles state={state} />}
      {!recording && last && (
        <div className="min-w-0 leading-[18px]">
          <span className="block text-[12px] opacity-80">Last: {last.name}</span>
          <b className="block truncate font-[620]">
            {last.state}, {lowerFirst(last.ended_because)}
          </b>
        </div>
      )}
      {recording && (!arriving || absent.length > 0) && (
        <b role="alert" className="rounded bg-signal px-2 py-1 font-[620] text-on-signal">
          {arriving ? `${absent.join(', ')} sends no samples` : 'No samples arrive'}
        </b>
      )}
      <span className="ml-auto flex gap-9">
        {recording && <Item name="Elapsed" figure={duration(state.elapsed_s)} big />}
        {state?.free_bytes != null && (
          <Item name="Space left" figure={`${figure(state.free_bytes / 1e9, 0)} GB`} big />
        )}
        <Item name="Backlog" figure={`${figure(state?.backlog_s ?? 0, 1)} s`} big />
      </span>
    </section>
  )
}

/** Cycles done, and between which forces the last one held. */
function Cycles({ state }: { state: BenchState }) {
  const kilo = (force: number | null) => figure(force === null ? null : force / 1e3, 3)
  return (
    <>
      <Item name="Cycles" figure={figure(state.cycles, 0)} big />
      <Item name="Last one, kN" figure={`${kilo(state.held_low)} to ${kilo(state.held_high)}`} />
    </>
  )
}

const lowerFirst = (text: string) => text.charAt(0).toLowerCase() + text.slice(1)

function Item(props: { name: string; words?: string; figure?: string; big?: boolean }) {
  return (
    <span className="leading-[18px]">
      <span className="block text-[12px] opacity-80">{props.name}</span>
      {props.words && <b className="font-[620]">{props.words} </b>}
      {props.figure && (
        <span className={`figure ${props.big ? 'text-[17px]' : ''}`}>{props.figure}</span>
      )}
    </span>
  )
}

/** A channel's reading. */
function Digits({ channel: c }: { channel: Channel }) {
  return (
    <LargeReading
      of={c.key}
      unit={c.unit}
      decimals={c.decimals}
      sign={<InputSign signal={c.signal} size={14} active={c.active_arms} inside={insideOf(c)} />}
    >
      {c.name}
    </LargeReading>
  )
}

/** The largest strain at a rosette's place, computed while its grids arrive. */
function PrincipalStrain({ of, name }: { of: string; name: string }) {
  const derived = (
    <svg width="14" height="14" fill="none" stroke="var(--ink)" aria-hidden>
      <circle cx="7" cy="7" r="5.6" strokeWidth="1.4" strokeDasharray="2.6 1.8" />
    </svg>
  )
  return (
    <LargeReading of={of} unit="µm/m" decimals={1} sign={derived}>
      ε<sub>1</sub> of {name}
    </LargeReading>
  )
}

/** A reading to be read from two metres. */
function LargeReading(props: {
  of: string
  unit: string
  decimals: number
  sign: ReactNode
  children: ReactNode
}) {
  const reading = useReading(props.of)
  const show = (v: number | undefined) =>
    figure(v === undefined ? null : fromSi(v, props.unit), props.decimals)
  return (
    <div className="border-b border-rule px-3.5 py-2">
      <div className="flex items-center gap-1.5">
        {props.sign}
        <b className="font-[620]">{props.children}</b>
        <span className="figure ml-auto text-[12px] text-soft">
          {show(reading?.lowest)} <span className="font-sans">to</span> {show(reading?.highest)}
        </span>
      </div>
      <div className="grid grid-cols-[1fr_64px] items-baseline gap-2">
        <span className={`text-right ${reading?.clipped ? 'text-signal' : ''}`}>
          {reading?.clipped ? (
            <b className="text-[26px] leading-[46px] font-[620]">clipped</b>
          ) : (
            <Reading
              className="text-[40px] leading-[46px] font-[560]"
              text={show(reading?.value)}
            />
          )}
        </span>
        <span className="text-[15px] text-soft">{props.unit}</span>
      </div>
    </div>
  )
}

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

function Controls({ context, state }: { context: StageContext; state: BenchState | null }) {
  const { setup, bench } = context
  const may = useMay('drive the bench')
  const waits = waitsFor(context, may)
  const recording = isBusy(state)
  const blocking = setup.gaps.find((g) => g.blocks)
  const elsewhere = blocking?.code === 'other_setup'
  const idleAway = !recording && blocking?.code === 'actuator_not_home'
  return (
    <div className="flex flex-none flex-col gap-2 border-t border-rule-strong bg-paper p-3.5">
      {!recording && (
        <ul className="text-[12px] leading-4">
          {setup.gaps.slice(0, 3).map((g) => (
            <li key={g.text} className="font-[560] text-marking-ink">
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
          onClick={() => void deeds.takeYoke(bench.id)}
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
          onClick={() => void deeds.stopBench(bench.id)}
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
            onClick={() => void deeds.startOrStop(setup, isBusy(state))}
          >
            {START[setup.motion.kind ?? 'none']}
          </Button>
        )
      )}
      {bench.yoke_mine && !recording && elsewhere && (
        <Button look="go" size={56} onClick={() => void deeds.putOnBench(setup)}>
          Put {setup.name} on the bench
        </Button>
      )}
      {bench.yoke_mine && idleAway && (
        <Button
          look="go"
          size={56}
          shortcut="N"
          waits={state?.motion === 'RETURN' ? 'The actuator returns' : undefined}
          onClick={() => void deeds.returnForNext(setup)}
        >
          Return, then fit {setup.next_specimen || 'the next'}
        </Button>
      )}
      {may && (
        <Button
          look="stop"
          size={44}
          shortcut="Esc Esc"
          onClick={() => void deeds.emergencyStop(bench.id)}
        >
          Emergency stop
        </Button>
      )}
    </div>
  )
}
