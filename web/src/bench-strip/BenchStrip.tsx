import {
  closestCenter,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
  type DragEndEvent,
} from '@dnd-kit/core'
import {
  arrayMove,
  horizontalListSortingStrategy,
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
} from '@dnd-kit/sortable'
import { CSS } from '@dnd-kit/utilities'

import type { Channel } from '../api/client'
import type { StageContext } from '../frame/stage'
import { useBenchState, useReading } from '../live/LiveProvider'
import { InputSign, type Inside } from '../ui/Diamond'
import { dropChannel } from '../panes/dropped'
import { figure } from '../ui/format'
import { fromSi } from '../ui/units'
import { Reading } from '../ui/Reading'
import { useIsSeen } from '../ui/useIsSeen'
import { announcementsOf, HOW } from './announcements'
import { ComputedTile } from './ComputedTile'
import { ordered, useTileOrder } from './order'
import { RunState } from './RunState'

/** What the diamond shows of a channel: wired, zeroed, zeroed and in calibration. */
export function insideOf(channel: Channel): Inside {
  if (channel.zero === null && channel.takes_zero) return 'dot'
  const due = channel.sensor.due_on
  return due && due < new Date().toISOString().slice(0, 10) ? 'bar' : 'tick'
}

const rangeWords = ({ conditioning: c }: Channel) =>
  'range_mv_v' in c ? `beyond ±${c.range_mv_v} mV/V` : 'beyond its range'

/** Pressed and moved it is a drag, just pressed a choice; by keys Space lifts and lays down. */
const KEYS = { start: ['Space'], end: ['Space', 'Enter'], cancel: ['Escape'] }
const useDragSensors = () =>
  useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor, {
      keyboardCodes: KEYS,
      coordinateGetter: sortableKeyboardCoordinates,
    }),
  )

/** Live values of all wired channels, in every stage; it scrolls and keeps its order. */
export function BenchStrip({ setup, chosen, choose }: StageContext) {
  const [order, keep] = useTileOrder(setup.id)
  const sensors = useDragSensors()
  const shown = ordered(setup.channels, order)
  const keys = shown.map((c) => c.key)
  const onDragEnd = ({ active, over, activatorEvent, delta }: DragEndEvent) => {
    if (
      activatorEvent instanceof PointerEvent &&
      dropChannel(
        String(active.id),
        activatorEvent.clientX + delta.x,
        activatorEvent.clientY + delta.y,
      )
    )
      return
    if (over && over.id !== active.id)
      keep(arrayMove(keys, keys.indexOf(String(active.id)), keys.indexOf(String(over.id))))
  }
  return (
    <footer className="col-span-2 grid grid-cols-[minmax(0,1fr)_minmax(210px,300px)] border-t border-rule-strong bg-sheet">
      <DndContext
        sensors={sensors}
        collisionDetection={closestCenter}
        onDragEnd={onDragEnd}
        accessibility={{ announcements: announcementsOf(shown), screenReaderInstructions: HOW }}
      >
        <SortableContext items={keys} strategy={horizontalListSortingStrategy}>
          <div className="grid auto-cols-[minmax(164px,1fr)] grid-flow-col overflow-x-auto overflow-y-hidden">
            {shown.map((channel, i) => (
              <Tile
                key={channel.key}
                channel={channel}
                number={i + 1}
                chosen={chosen === channel.id}
                onChoose={() => choose(chosen === channel.id ? null : channel.id)}
              />
            ))}
            {setup.computed.map((c) => (
              <ComputedTile key={c.key} channel={c} />
            ))}
          </div>
        </SortableContext>
      </DndContext>
      <RunState setup={setup} />
    </footer>
  )
}

interface TileProps {
  channel: Channel
  number: number
  chosen: boolean
  onChoose: () => void
}

function Tile({ channel, number, chosen, onChoose }: TileProps) {
  const { attributes, listeners, setNodeRef, node, transform, transition, isDragging } =
    useSortable({ id: channel.key })
  const reading = useReading(channel.key, useIsSeen(node))
  const wrong = useBenchState()?.devices[channel.device_label]?.faults[channel.key]
  const dead = !reading
  const fault = !dead && reading.clipped
  const show = (value: number) => figure(fromSi(value, channel.unit), channel.decimals)
  return (
    <button
      {...attributes}
      {...listeners}
      ref={setNodeRef}
      type="button"
      role="button"
      aria-pressed={chosen}
      onClick={onChoose}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      className={`relative h-18.75 overflow-hidden border-r border-rule px-2.5 pt-1.75 text-left contain-strict ${
        isDragging ? 'z-10 bg-sheet shadow-lifted' : ''
      } ${chosen ? 'bg-marking-wash shadow-chosen-above' : ''}`}
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
      <span className="mt-px flex h-6.75 items-baseline gap-1.5 leading-6.75">
        {dead || fault ? (
          <span className={`figure text-state font-number ${fault ? 'text-signal' : 'text-soft'}`}>
            {fault ? 'clipped' : '– – –'}
          </span>
        ) : (
          <>
            <Reading
              className="min-w-24 text-right text-state font-number"
              text={show(reading.value)}
            />
            <span className="text-small text-soft">{channel.unit}</span>
          </>
        )}
      </span>
      <span className="figure block text-note leading-3.5 text-soft">
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
    <svg width="46" height="20" className="absolute top-1.5 right-6.5" aria-hidden>
      <polyline points={points.join(' ')} fill="none" stroke="var(--ink-soft)" strokeWidth="1.2" />
    </svg>
  )
}
