import { useState, type ReactNode } from 'react'

import type { Bench, Channel, Setup } from '../../api/client'
import { readPlugs, type Plug } from '../../api/plugs'
import { useMay } from '../../api/queries'
import { insideOf } from '../../bench-strip/BenchStrip'
import { yokeFirst } from '../../frame/yokeFirst'
import { Button } from '../../ui/Button'
import { InputSign } from '../../ui/Diamond'
import { Segments } from '../../ui/Fact'
import { figure } from '../../ui/format'
import { attempt } from '../../ui/notices'
import { clockWords, linkWords, type Device } from '../../devices/link'
import { brokenSides, inForce } from '../../kinds/inputs/drawing/marks'
import { SignalNow } from './SignalNow'
import { row } from '../../ui/row'

export type Input = Device['inputs'][number]

interface Props {
  view: ReactNode
  setup: Setup
  bench: Bench
  /** The input that is shown. */
  shown: number
  pick: (input: Input, channel?: Channel) => void
  onRead: (plugs: Plug[]) => void
}

/** The same inputs by the device that they are on, or by what is plugged into them. */
export function InputList({ view, setup, bench, shown, pick, onRead }: Props) {
  const [by, setBy] = useState<'device' | 'sensor'>('device')
  const byInput = new Map(setup.channels.map((c) => [c.input_id, c]))
  const row = (input: Input) => (
    <InputRow
      key={input.id}
      label={input.label}
      signal={input.signal}
      channel={byInput.get(input.id)}
      chosen={input.id === shown}
      onChoose={() => pick(input, byInput.get(input.id))}
    />
  )
  return (
    <section className="col" aria-label="Inputs">
      <div className="bar">
        <h2 className="sr-only">Inputs</h2>
        {view}
      </div>
      <div className="min-h-0 flex-1 overflow-auto">
        {by === 'device'
          ? bench.devices.map((d) => (
              <div key={d.id}>
                <DeviceHead device={d} />
                <ul>{d.inputs.map(row)}</ul>
              </div>
            ))
          : kindsOf(bench, byInput).map(([kind, inputs]) => (
              <div key={kind}>
                <h3 className="border-b border-rule bg-paper px-4 py-1.5">
                  {kind} <span className="figure font-normal text-soft">{inputs.length}</span>
                </h3>
                <ul>{inputs.map(row)}</ul>
              </div>
            ))}
      </div>
      <div className="flex flex-none flex-wrap items-center gap-2 border-t border-rule bg-paper px-4 py-2">
        <Segments
          dense
          label="Inputs by"
          options={[
            ['device', 'By device'],
            ['sensor', 'By sensor'],
          ]}
          value={by}
          onChange={setBy}
        />
        <Rescan setup={setup} bench={bench} onRead={onRead} />
      </div>
    </section>
  )
}

/** Inputs by the kind of their sensor; the free ones last. */
function kindsOf(bench: Bench, byInput: Map<number, Channel>): [string, Input[]][] {
  const found = new Map<string, Input[]>()
  for (const input of bench.devices.flatMap((d) => d.inputs)) {
    const kind = byInput.get(input.id)?.sensor.kind ?? 'free'
    found.set(kind, [...(found.get(kind) ?? []), input])
  }
  return [...found].sort(
    ([a], [b]) => Number(a === 'free') - Number(b === 'free') || a.localeCompare(b),
  )
}

/** Sensors may have been moved since: have the plugs say where they are. */
function Rescan(props: { setup: Setup; bench: Bench; onRead: (plugs: Plug[]) => void }) {
  const [busy, setBusy] = useState(false)
  const yoke = yokeFirst(props.bench, useMay('wire channels'))('read the plugs')
  if (!props.bench.devices.some((d) => d.capabilities.includes('data sheets'))) return null
  const read = async () => {
    setBusy(true)
    const found = await attempt(readPlugs(props.setup.id))
    setBusy(false)
    if (found) props.onRead(found)
  }
  return (
    <Button size={24} disabled={busy} {...yoke} onClick={() => void read()}>
      {busy ? 'Reading' : 'Rescan the plugs'}
    </Button>
  )
}

/** What a device says of itself: link, who controls it, how its clock runs. */
function DeviceHead({ device: d }: { device: Device }) {
  const [words, colour] = linkWords(d)
  const clock = clockWords(d)
  return (
    <div className="grid flex-none grid-cols-[1fr_auto] gap-x-2 border-b border-rule bg-paper px-4 py-2 leading-4.25">
      <b className="font-name">
        {d.label}
        {d.inputs.length > 0 && `, ${d.inputs.length} inputs`}
      </b>
      <b className={`font-strong ${colour}`}>{words}</b>
      <span className="text-small text-soft">
        {d.serial ? `serial ${d.serial}, firmware ${d.firmware}` : 'has not answered yet'}
      </span>
      {d.temperature_c !== null && (
        <span className="text-small text-soft">
          <span className="figure text-ink">{figure(d.temperature_c, 0)}</span> °C
          {d.battery !== null && (
            <>
              , battery <span className="figure text-ink">{figure(d.battery * 100, 0)}</span> %
            </>
          )}
        </span>
      )}
      <span className="col-span-2 text-small text-soft">
        {d.link === 'linked' && 'controlled by this bench'}
        {clock && `, clock ${clock}`}
      </span>
      {d.link_note && (
        <p role="alert" className={`col-span-2 text-small font-number ${colour}`}>
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
        className={row({
          chosen: chosen,
          className:
            'grid w-full grid-cols-[30px_20px_1fr_auto] items-center gap-x-2 border-b border-rule py-0.75 pr-4 pl-4 text-left',
        })}
      >
        <span className="figure text-small text-soft">{label}</span>
        <InputSign
          signal={signal}
          size={20}
          active={channel?.active_arms ?? []}
          inside={channel ? insideOf(channel) : 'none'}
          broken={channel && brokenSides(channel)}
        />
        <span className="min-w-0 leading-4">
          <b className="block truncate font-strong">{channel?.name ?? 'Free'}</b>
          <span className="block truncate text-small text-soft">
            {channel
              ? `${channel.connection_short}${channel.recorded ? '' : ', off: not recorded'}`
              : 'give it a sensor'}
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
  if (fault) return <b className="font-strong text-signal">{fault}</b>
  return <SignalNow channel={channel} />
}
