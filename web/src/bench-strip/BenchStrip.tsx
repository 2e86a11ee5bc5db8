import { useRef } from 'react'

import type { Channel } from '../api/client'
import type { StageContext } from '../frame/stage'
import { useBenchState, useReading } from '../live/LiveProvider'
import { InputSign, type Inside } from '../ui/Diamond'
import { figure } from '../ui/format'
import { fromSi } from '../ui/units'
import { Reading } from '../ui/Reading'
import { ordered, moved, useTileOrder } from './order'
import { RunState } from './RunState'

/** What the diamond shows of a channel: wired, zeroed, zeroed and in calibration. */
export function insideOf(channel: Channel): Inside {
  if (channel.zero === null && channel.takes_zero) return 'dot'
  const due = channel.sensor.due_on
  return due && due < new Date().toISOString().slice(0, 10) ? 'bar' : 'tick'
}

const rangeWords = ({ conditioning: c }: Channel) =>
  'range_mv_v' in c ? `beyond ±${c.range_mv_v} mV/V` : 'beyond its range'

/** Live values of all wired channels, in every stage; it scrolls and keeps its order. */
export function BenchStrip({ setup, chosen, choose }: StageContext) {
  const [order, keep] = useTileOrder(setup.id)
  const shown = ordered(setup.channels, order)
  const drop = (key: string, target: string) =>
    keep(
      moved(
        shown.map((c) => c.key),
        key,
        target,
      ),
    )
  return (
    <footer className="col-span-2 grid grid-cols-[minmax(0,1fr)_minmax(210px,300px)] border-t border-rule-strong bg-sheet">
      <div className="grid auto-cols-[minmax(164px,1fr)] grid-flow-col overflow-x-auto overflow-y-hidden">
        {shown.map((channel, i) => (
          <Tile
            key={channel.key}
            channel={channel}
            number={i + 1}
            chosen={chosen === channel.id}
            onChoose={() => choose(chosen === channel.id ? null : channel.id)}
            onDrop={(key) => drop(key, channel.key)}
          />
        ))}
      </div>
      <RunState setup={setup} />
    </footer>
  )
}

interface TileProps {
  channel: Channel
  number: number
  chosen: boolean
  onChoose: () => void
  onDrop: (key: string) => void
}

function Tile({ channel, number, chosen, onChoose, onDrop }: TileProps) {
  const reading = useReading(channel.key)
  const wrong = useBenchState()?.devices[channel.device_label]?.faults[channel.key]
  const moving = useRef(false)
  const dead = !reading
  const fault = !dead && reading.clipped
  const show = (value: number) => figure(fromSi(value, channel.unit), channel.decimals)
  return (
    <button
      type="button"
      aria-pressed={chosen}
      onClick={onChoose}
      draggable
      onDragStart={(e) => {
        moving.current = true
        e.dataTransfer.setData('text/plain', channel.key)
      }}
      onDragEnd={() => (moving.current = false)}
      onDragOver={(e) => e.preventDefault()}
      onDrop={(e) => {
        e.preventDefault()
        if (!moving.current) onDrop(e.dataTransfer.getData('text/plain'))
      }}
      className={`relative overflow-hidden border-r border-rule px-2.5 pt-[7px] text-left ${
        chosen ? 'bg-marking-wash shadow-[inset_0_3px_0_var(--marking)]' : ''
      }`}
    >
      <span className="flex h-4 items-center gap-1.5 text-body font-semibold">
        <InputSign
          signal={channel.signal}
          size={14}
          active={channel.active_arms}
          inside={fault ? 'none' : insideOf(channel)}
          broken={fault ? [1] : []}
        />
        <span className="truncate">{channel.name}</span>
        <span className="figure ml-auto text-note font-normal text-soft">{number}</span>
      </span>
      {!dead && <Spark values={reading.history} />}
      <span className="mt-px flex h-[27px] items-baseline gap-1.5 leading-[27px]">
        {dead || fault ? (
          <span className={`figure text-state font-number ${fault ? 'text-signal' : 'text-soft'}`}>
            {fault ? 'clipped' : '– – –'}
          </span>
        ) : (
          <>
            <Reading
              className="min-w-[96px] text-right text-state font-number"
              text={show(reading.value)}
            />
            <span className="text-small text-soft">{channel.unit}</span>
          </>
        )}
      </span>
      <span className="figure block text-note leading-[14px] text-soft">
        {dead ? (
          <span className="font-sans" title={wrong}>
            {wrong ? 'its scaling gives no number' : 'no reading'}
          </span>
        ) : fault ? (
          <span className="font-sans">{rangeWords(channel)}</span>
        ) : (
          <>
            {show(reading.lowest)} <span className="font-sans">to</span> {show(reading.highest)}
          </>
        )}
      </span>
    </button>
  )
}

function Spark({ values: all }: { values: readonly number[] }) {
  const values = all.filter(Number.isFinite) // what clipped has no value
  if (values.length < 2) return null
  const low = Math.min(...values)
  const span = Math.max(...values) - low || 1
  const points = values.map(
    (v, i) =>
      `${((i / (values.length - 1)) * 44 + 1).toFixed(1)},${(18 - ((v - low) / span) * 16).toFixed(1)}`,
  )
  return (
    <svg width="46" height="20" className="absolute top-1.5 right-[26px]" aria-hidden>
      <polyline points={points.join(' ')} fill="none" stroke="var(--ink-soft)" strokeWidth="1.2" />
    </svg>
  )
}
