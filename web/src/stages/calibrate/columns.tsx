/** The columns of the channel grid; a new one is a line. */

import { useQuery } from '@tanstack/react-query'
import type { ReactNode } from 'react'

import { uncertaintiesQuery } from '../../api/calibrations'
import type { Channel } from '../../api/client'
import { insideOf } from '../../bench-strip/BenchStrip'
import { useStage } from '../../frame/stage'
import { factorOf } from '../../kinds/scalings'
import { isGauge } from '../../kinds/scalings/gauge'
import { useLive, useReading } from '../../live/LiveProvider'
import { InputSign } from '../../ui/Diamond'
import { FigureBox } from '../../ui/FigureBox'
import { clock, figure, significant } from '../../ui/format'
import { fromSi, signalUnit, spanFromSi } from '../../ui/units'
import { perSignal, shuntError, zeroDrift } from './figures'

interface CellProps {
  channel: Channel
  isSeen: boolean
  onChoose: () => void
}

export interface GridColumn {
  name: string
  right?: true
  /** Its name is not written above it. */
  hidden?: true
  /** It cannot be taken away. */
  always?: true
  /** Shown only to who chooses it. */
  onDemand?: true
  Cell: (props: CellProps) => ReactNode
}

const sensorWords = (c: Channel) =>
  isGauge(c) ? `${c.connection_short.split(',')[0]}, k ${factorOf(c)}` : c.sensor.name

export const COLUMNS: readonly GridColumn[] = [
  { name: 'Bridge', hidden: true, Cell: Sign },
  { name: 'Channel', always: true, Cell: Name },
  { name: 'Input', Cell: Input },
  { name: 'Sensor', Cell: Sensor },
  { name: 'Live', right: true, always: true, Cell: Live },
  { name: 'Unit', hidden: true, always: true, Cell: Unit },
  { name: 'Noise', right: true, Cell: Noise },
  { name: 'U, k = 2', right: true, onDemand: true, Cell: Uncertainty },
  { name: 'Raw', right: true, Cell: Raw },
  { name: 'Scaling', right: true, Cell: Scaling },
  { name: 'Zeroed', Cell: Zeroed },
  { name: 'Drift since', right: true, Cell: Drift },
  { name: 'Shunt due', right: true, Cell: ShuntDue },
  { name: 'Read', right: true, Cell: ShuntRead },
  { name: 'Error, %', right: true, Cell: ShuntError },
  { name: 'Certificate due', Cell: Certificate },
]

function Sign({ channel: c }: CellProps) {
  return <InputSign signal={c.signal} size={20} active={c.active_arms} inside={insideOf(c)} />
}

function Name({ channel: c, onChoose }: CellProps) {
  return (
    <button type="button" className="text-body font-strong" onClick={onChoose}>
      {c.name}
    </button>
  )
}

function Input({ channel: c }: CellProps) {
  return (
    <span className="figure">
      {c.device_label}.{c.input_number}
    </span>
  )
}

function Sensor({ channel: c }: CellProps) {
  return <span className="block max-w-42.5 truncate">{sensorWords(c)}</span>
}

function Live({ channel: c, isSeen }: CellProps) {
  const reading = useReading(c.key, isSeen)
  if (reading?.clipped) return <span className="text-large text-signal">clipped</span>
  return (
    <FigureBox
      digits={c.decimals + 6}
      className="text-large font-number"
      text={figure(reading && fromSi(reading.value, c.unit), c.decimals)}
    />
  )
}

function Unit({ channel: c }: CellProps) {
  return <span className="-ml-2 text-soft">{c.unit}</span>
}

function Noise({ channel: c, isSeen }: CellProps) {
  const reading = useReading(c.key, isSeen)
  return (
    <FigureBox
      digits={c.decimals + 6}
      className="text-soft"
      text={figure(reading && spanFromSi(reading.deviation, c.unit), c.decimals + 1)}
    />
  )
}

/** Of the reading as it is now; marked where something that counts is not known. */
function Uncertainty({ channel: c }: CellProps) {
  const { setup } = useStage()
  const live = useLive()
  const now = () =>
    setup.channels.flatMap(({ id: channel, key }) => {
      const { value = NaN, deviation = NaN } = live.reading(key) ?? {}
      if (!Number.isFinite(value)) return []
      return [{ channel, reading: value, deviation: Number.isFinite(deviation) ? deviation : 0 }]
    })
  const found = useQuery(uncertaintiesQuery(setup.id, now)).data?.get(c.id)
  return (
    <span
      className={`figure ${found?.complete ? '' : 'text-marking-ink'}`}
      title={found && !found.complete ? 'Not all that counts is known: see Uncertainty.' : ''}
    >
      {found ? `± ${figure(spanFromSi(found.expanded, c.unit), c.decimals + 1)}` : '–'}
      {found && !found.complete && ' …'}
    </span>
  )
}

function Raw({ channel: c, isSeen }: CellProps) {
  const reading = useReading(c.key, isSeen)
  const signal = signalUnit(c.signal)
  return (
    <span className="flex gap-1">
      <FigureBox digits={9} text={figure(reading && fromSi(reading.raw, signal), 5)} />
      <span className="text-soft">{signal}</span>
    </span>
  )
}

function Scaling({ channel: c }: CellProps) {
  return (
    <>
      <span className="figure">{significant(perSignal(c))}</span>{' '}
      <span className="text-soft">
        {c.unit} per {signalUnit(c.signal)}
      </span>
    </>
  )
}

function Zeroed({ channel: c }: CellProps) {
  if (c.zeroed_at) return <span className="figure">{clock(c.zeroed_at)}</span>
  return <b className="font-strong text-marking-ink">{c.takes_zero ? 'not zeroed' : ''}</b>
}

function Drift({ channel: c }: CellProps) {
  return <span className="figure">{figure(zeroDrift(c), 4)}</span>
}

function ShuntDue({ channel: c }: CellProps) {
  return <span className="figure">{figure(c.shunt_expected_mv_v, 4)}</span>
}

function ShuntRead({ channel: c }: CellProps) {
  return <span className="figure">{figure(c.shunt_measured_mv_v, 4)}</span>
}

function ShuntError({ channel: c }: CellProps) {
  const failed = c.shunt_check && !c.shunt_check.passed
  return (
    <span className={`figure ${failed ? 'font-strong text-marking-ink' : ''}`}>
      {figure(shuntError(c), 2)}
    </span>
  )
}

function Certificate({ channel: c }: CellProps) {
  if (!c.sensor.due_on) return <span className="text-soft">{c.sensor.serial}</span>
  const overdue = c.sensor.calibration_status.status === 'overdue'
  return (
    <span className={overdue ? 'font-strong text-signal' : ''}>
      <span className="figure">{c.sensor.due_on}</span>
      {overdue && ' overdue'}
    </span>
  )
}
