import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import type { Channel, Setup } from '../../api/client'
import { calibrationsQuery } from '../../api/calibrations'
import { bridgesOf, shuntCheck, toZero, zero } from '../../api/actions'
import { useMay } from '../../api/queries'
import { insideOf } from '../../bench-strip/BenchStrip'
import { useStage } from '../../frame/stage'
import { factorOf } from '../../kinds/scalings'
import { isGauge } from '../../kinds/scalings/gauge'
import { useReading } from '../../live/LiveProvider'
import { Button } from '../../ui/Button'
import { InputSign } from '../../ui/Diamond'
import { Segments } from '../../ui/Fact'
import { clock, figure, significant } from '../../ui/format'
import { fromSi, signalUnit, spanFromSi } from '../../ui/units'
import { ComputedPanel } from '../../computed/ComputedPanel'
import { yokeFirst } from '../../frame/yokeFirst'
import { UndoRedo } from '../wire/ChannelInspector'
import { CalibrationView } from './calibration/CalibrationView'
import { PlanForm } from './calibration/PlanForm'
import { DisplayPanel } from './DisplayPanel'
import { perSignal, shuntError, zeroDrift } from './figures'
import { ScalingPanel } from './ScalingPanel'
import { ScalingPlot } from './ScalingPlot'
import { ReadingSteps } from './steps/ReadingSteps'
import { row } from '../../ui/row'

const COLUMNS = [
  ['Channel', ''],
  ['Input', ''],
  ['Sensor', ''],
  ['Live', 'n'],
  ['Unit', 'hidden'],
  ['Noise', 'n'],
  ['Raw', 'n'],
  ['Scaling', 'n'],
  ['Zeroed', ''],
  ['Drift since', 'n'],
  ['Shunt due', 'n'],
  ['Read', 'n'],
  ['Error, %', 'n'],
  ['Certificate due', ''],
] as const

export function Calibrate() {
  const { setup, bench, chosen, choose } = useStage()
  const may = useMay('zero and check channels')
  const channel = setup.channels.find((c) => c.id === chosen) ?? setup.channels[0]
  const [rest, bridges] = [toZero(setup), bridgesOf(setup)]
  const yoke = yokeFirst(bench, may)
  const shown = useCalibration(setup, channel)
  const missing = setup.channels.filter((c) => c.zero === null && c.takes_zero).length
  if (!channel)
    return (
      <div className="col h-full">
        <p className="p-8">No channel is wired yet: go to Wire and give an input a sensor.</p>
      </div>
    )
  return (
    <div className="grid h-full grid-rows-[minmax(9rem,max-content)_minmax(17rem,1fr)_auto]">
      <section className="col border-r-0" aria-label="Channels">
        <div className="bar">
          <h1>Channels</h1>
          <span className={missing ? 'text-marking-ink' : 'text-moss'}>
            <b className="font-strong">{missing ? `${missing} to zero` : 'all zeroed'}</b>
          </span>
          <UndoRedo setup={setup} />
          <Button {...yoke('shunt check')} onClick={() => void shuntCheck(setup.id, bridges)}>
            Shunt check {bridges.length} bridges
          </Button>
          <Button
            look="go"
            shortcut="F7"
            {...yoke('zero')}
            onClick={() => void zero(setup.id, rest)}
          >
            Zero {rest.length} channels
          </Button>
        </div>
        <div className="overflow-auto">
          <table className="grid-table">
            <thead className="sticky top-0 z-10 bg-sheet">
              <tr>
                <th className="w-10">
                  <span className="sr-only">Bridge</span>
                </th>
                {COLUMNS.map(([name, kind], i) => (
                  <th key={i} style={{ textAlign: kind === 'n' ? 'right' : 'left' }}>
                    <span className={kind === 'hidden' ? 'sr-only' : ''}>{name}</span>
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {setup.channels.map((c) => (
                <Row
                  key={c.id}
                  channel={c}
                  input={`${c.device_label}.${c.input_number}`}
                  chosen={c.id === channel.id}
                  onChoose={() => choose(c.id)}
                />
              ))}
            </tbody>
          </table>
        </div>
      </section>
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
          <DisplayPanel channel={channel} shuntWaits={yoke('shunt check')} setupId={setup.id} />
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

interface RowProps {
  channel: Channel
  input: string
  chosen: boolean
  onChoose: () => void
}

const sensorWords = (c: Channel) =>
  isGauge(c) ? `${c.connection_short.split(',')[0]}, k ${factorOf(c)}` : c.sensor.name

function Row({ channel: c, input, chosen, onChoose }: RowProps) {
  const reading = useReading(c.key)
  const signal = signalUnit(c.signal)
  const error = shuntError(c)
  const overdue = c.sensor.calibration_status.status === 'overdue'
  return (
    <tr
      onClick={onChoose}
      aria-selected={chosen}
      className={row({ chosen: chosen, className: 'h-8 cursor-pointer' })}
    >
      <td className="pl-4!">
        <InputSign signal={c.signal} size={20} active={c.active_arms} inside={insideOf(c)} />
      </td>
      <td>
        <button type="button" className="text-body font-strong" onClick={onChoose}>
          {c.name}
        </button>
      </td>
      <td className="figure">{input}</td>
      <td className="max-w-42.5 truncate">{sensorWords(c)}</td>
      <td className="figure text-right text-large! font-number">
        {reading?.clipped ? (
          <span className="font-sans text-signal">clipped</span>
        ) : (
          figure(reading && fromSi(reading.value, c.unit), c.decimals)
        )}
      </td>
      <td className="pl-0! text-soft">{c.unit}</td>
      <td className="figure text-right text-soft">
        {figure(reading && spanFromSi(reading.deviation, c.unit), c.decimals + 1)}
      </td>
      <td className="text-right">
        <span className="figure">{figure(reading && fromSi(reading.raw, signal), 5)}</span>{' '}
        <span className="text-soft">{signal}</span>
      </td>
      <td className="text-right">
        <span className="figure">{significant(perSignal(c))}</span>{' '}
        <span className="text-soft">
          {c.unit} per {signal}
        </span>
      </td>
      <td>
        {c.zeroed_at ? (
          <span className="figure">{clock(c.zeroed_at)}</span>
        ) : (
          <b className="font-strong text-marking-ink">{c.takes_zero ? 'not zeroed' : ''}</b>
        )}
      </td>
      <td className="figure text-right">{figure(zeroDrift(c), 4)}</td>
      <td className="figure text-right">{figure(c.shunt_expected_mv_v, 4)}</td>
      <td className="figure text-right">{figure(c.shunt_measured_mv_v, 4)}</td>
      <td
        className={`figure text-right ${error !== null && Math.abs(error) > 1 ? 'font-strong text-marking-ink' : ''}`}
      >
        {figure(error, 2)}
      </td>
      <td className={overdue ? 'font-strong text-signal' : ''}>
        {c.sensor.due_on ? (
          <>
            <span className="figure">{c.sensor.due_on}</span>
            {overdue && ' overdue'}
          </>
        ) : (
          <span className="text-soft">{c.sensor.serial}</span>
        )}
      </td>
    </tr>
  )
}
