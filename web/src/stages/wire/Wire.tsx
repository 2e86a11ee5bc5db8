import { useState, type ReactNode } from 'react'
import { useSearchParams } from 'react-router'

import type { Bench, Channel, Setup } from '../../api/client'
import { insideOf } from '../../bench-strip/BenchStrip'
import { useStage } from '../../frame/stage'
import { useReading } from '../../live/LiveProvider'
import { InputSign } from '../../ui/Diamond'
import { figure } from '../../ui/format'
import { fromSi, signalUnit } from '../../ui/units'
import { Library } from './library/Library'
import { WiringSheet } from './WiringSheet'
import { Versions } from './Versions'
import { WireTable } from './grid/WireTable'
import { WiringDrawing } from './WiringDrawing'
import { GiveSensor } from './GiveSensor'
import { ChannelInspector } from './ChannelInspector'
import { Segments } from '../../ui/Fact'
import { CheckPanel } from './CheckPanel'
import { brokenSides, inForce, MarksContext, marksOf } from './marks'
import { circuitShort, circuitWords } from './words'

type Device = Bench['devices'][number]
type Input = Device['inputs'][number]

/** The inputs one by one with their drawing, or all of them as a table. */
export function Wire() {
  const [query, setQuery] = useSearchParams()
  const shown = (query.get('view') ?? 'drawing') as keyof typeof VIEWS
  const view = (
    <Segments
      label="View"
      options={[
        ['drawing', 'Drawing'],
        ['table', 'Table'],
        ['library', 'Library'],
        ['versions', 'Versions'],
      ]}
      value={shown}
      onChange={(next) => setQuery(next === 'drawing' ? {} : { view: next })}
    />
  )
  const View = VIEWS[shown] ?? WireDrawing
  return <View view={view} />
}

const VIEWS = { drawing: WireDrawing, table: WireTable, library: Library, versions: Versions }

/** Inputs at the left, the wiring of the chosen one in the middle, its settings at the right. */
function WireDrawing({ view }: { view: ReactNode }) {
  const { setup, bench, chosen, choose } = useStage()
  const [free, setFree] = useState<number | null>(null)
  const inputs = bench.devices.flatMap((d) => d.inputs)
  if (!inputs.length) return <p className="p-8">This bench has no device with inputs yet.</p>
  const channel =
    free === null ? (setup.channels.find((c) => c.id === chosen) ?? setup.channels[0]) : undefined
  const shown = channel ? channel.input_id : (free ?? inputs[0]!.id)
  const device = bench.devices.find((d) => d.inputs.some((i) => i.id === shown))!
  const pick = (input: Input, found?: Channel) => {
    setFree(found ? null : input.id)
    choose(found?.id ?? null)
  }
  return (
    <div className="grid h-full grid-cols-[268px_1fr_284px]">
      <section className="col" aria-label="Inputs">
        <div className="bar">
          <h2 className="sr-only">Inputs</h2>
          {view}
        </div>
        <div className="min-h-0 flex-1 overflow-auto">
          {bench.devices.map((d) => (
            <DeviceInputs key={d.id} device={d} setup={setup} shown={shown} pick={pick} />
          ))}
        </div>
      </section>
      {channel ? (
        <>
          <section className="col" aria-label={`Wiring of ${channel.name}`}>
            <div className="bar">
              <h1>{channel.name}</h1>
              <span className="truncate text-soft">
                {channel.sensor.name}: {circuitWords(channel.wiring)}, on input{' '}
                {channel.device_label}.{channel.input_number}
              </span>
              <WiringSheet setup={setup} />
            </div>
            <div className="min-h-0 flex-1 overflow-auto">
              <MarksContext value={marksOf(channel)}>
                <WiringDrawing channel={channel} device={device} />
              </MarksContext>
            </div>
            <CheckPanel setup={setup} bench={bench} channel={channel} />
          </section>
          <ChannelInspector key={channel.id} setup={setup} bench={bench} channel={channel} />
        </>
      ) : (
        <GiveSensor
          key={shown}
          setup={setup}
          device={device}
          input={device.inputs.find((i) => i.id === shown)!}
          onWired={() => setFree(null)}
        />
      )}
    </div>
  )
}

interface DeviceProps {
  device: Device
  setup: Setup
  shown: number
  pick: (input: Input, found?: Channel) => void
}

function DeviceInputs({ device, setup, shown, pick }: DeviceProps) {
  const byInput = new Map(setup.channels.map((c) => [c.input_id, c]))
  return (
    <>
      <DeviceHead device={device} />
      <ul>
        {device.inputs.map((input) => (
          <InputRow
            key={input.id}
            label={input.label}
            signal={input.signal}
            channel={byInput.get(input.id)}
            chosen={input.id === shown}
            onChoose={() => pick(input, byInput.get(input.id))}
          />
        ))}
      </ul>
    </>
  )
}

const LINK: Record<string, readonly [string, string]> = {
  linked: ['Linked', 'text-moss'],
  listening: ['Listening', 'text-marking-ink'],
}

/** What a device says of itself: link, who controls it, how its clock runs. */
function DeviceHead({ device: d }: { device: Device }) {
  const [words, colour] = LINK[d.link] ?? ['Not linked', 'text-signal']
  const runs =
    d.drift_ppm === null ? '' : `clock ${d.drift_ppm > 0 ? '+' : ''}${figure(d.drift_ppm, 1)} ppm`
  const put = d.clock_steps
    ? `, put ${d.clock_steps === 1 ? 'once' : `${d.clock_steps} times`}`
    : ''
  return (
    <div className="grid flex-none grid-cols-[1fr_auto] gap-x-2 border-b border-rule bg-paper px-4 py-2 leading-[17px]">
      <b className="font-[640]">
        {d.label}
        {d.inputs.length > 0 && `, ${d.inputs.length} inputs`}
      </b>
      <b className={`font-[620] ${colour}`}>{words}</b>
      <span className="text-[12px] text-soft">
        {d.serial ? `serial ${d.serial}, firmware ${d.firmware}` : 'has not answered yet'}
      </span>
      {d.temperature_c !== null && (
        <span className="text-[12px] text-soft">
          <span className="figure text-ink">{figure(d.temperature_c, 0)}</span> °C
        </span>
      )}
      <span className="col-span-2 text-[12px] text-soft">
        {d.link === 'linked' && 'controlled by this bench'}
        {runs && d.link === 'linked' && `, ${runs}${put}`}
      </span>
      {d.link_note && (
        <p role="alert" className={`col-span-2 text-[12px] font-[560] ${colour}`}>
          {d.link_note}
        </p>
      )}
    </div>
  )
}

interface RowProps {
  label: string
  signal: string
  channel?: Channel
  chosen: boolean
  onChoose: () => void
}

function InputRow({ label, signal, channel, chosen, onChoose }: RowProps) {
  return (
    <li>
      <button
        type="button"
        aria-pressed={chosen}
        onClick={onChoose}
        className={`grid w-full grid-cols-[30px_20px_1fr_auto] items-center gap-x-2 border-b border-rule py-[3px] pr-4 pl-4 text-left ${
          chosen ? 'bg-marking-wash shadow-[inset_3px_0_0_var(--marking)]' : 'hover:bg-paper'
        }`}
      >
        <span className="figure text-[12px] text-soft">{label}</span>
        <InputSign
          signal={signal}
          size={20}
          active={channel?.active_arms ?? []}
          inside={channel ? insideOf(channel) : 'none'}
          broken={channel && brokenSides(channel)}
        />
        <span className="min-w-0 leading-4">
          <b className="block truncate font-[620]">{channel?.name ?? 'Free'}</b>
          <span className="block truncate text-[12px] text-soft">
            {channel ? circuitShort(channel.wiring) : 'give it a sensor'}
          </span>
        </span>
        {channel ? <AtTheInput channel={channel} /> : <span />}
      </button>
    </li>
  )
}

/** What the last check found wrong, or else the reading. */
function AtTheInput({ channel }: { channel: Channel }) {
  const fault = inForce(channel)?.short
  if (fault) return <b className="font-[620] text-signal">{fault}</b>
  return <RawReading channel={channel} />
}

function RawReading({ channel }: { channel: Channel }) {
  const reading = useReading(channel.key)
  const unit = signalUnit(channel.signal)
  if (reading?.clipped) return <b className="font-[620] text-signal">Clipped</b>
  return (
    <span>
      <span className="figure">{figure(reading && fromSi(reading.raw, unit), 4)}</span>{' '}
      <span className="text-[12px] text-soft">{unit}</span>
    </span>
  )
}
