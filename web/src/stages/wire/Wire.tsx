import { useState } from 'react'

import type { Bench, Channel } from '../../api/client'
import { insideOf } from '../../bench-strip/BenchStrip'
import { useStage } from '../../frame/SetupFrame'
import { useReading } from '../../live/LiveProvider'
import { Diamond } from '../../ui/Diamond'
import { figure } from '../../ui/format'
import { BridgeDrawing } from './BridgeDrawing'
import { GiveSensor } from './GiveSensor'
import { ChannelInspector } from './ChannelInspector'
import { circuitShort, circuitWords } from './words'

/** Inputs at the left, the wiring of the chosen one in the middle, its settings at the right. */
export function Wire() {
  const { setup, bench, chosen, choose } = useStage()
  const [free, setFree] = useState<number | null>(null)
  const amplifier = bench.amplifiers[0]
  if (!amplifier) return <p className="p-8">This bench has no amplifier yet.</p>
  const byInput = new Map(setup.channels.map((c) => [c.input_number, c]))
  const channel =
    free === null ? (setup.channels.find((c) => c.id === chosen) ?? setup.channels[0]) : undefined
  const freeInput = free ?? (channel ? null : 1)
  const pick = (number: number, found?: Channel) => {
    setFree(found ? null : number)
    choose(found?.id ?? null)
  }
  return (
    <div className="grid h-full grid-cols-[268px_1fr_284px]">
      <section className="col" aria-label="Inputs">
        <div className="bar">
          <h2>Inputs</h2>
          <span className="ml-auto text-soft">
            <span className="figure text-ink">{setup.channels.length}</span> of{' '}
            <span className="figure text-ink">{amplifier.input_count}</span> wired
          </span>
        </div>
        <AmplifierHead amplifier={amplifier} />
        <ul className="flex-1 overflow-auto">
          {Array.from({ length: amplifier.input_count }, (_, i) => i + 1).map((number) => (
            <InputRow
              key={number}
              label={`${amplifier.label.replace(/\D/g, '')}.${number}`}
              channel={byInput.get(number)}
              chosen={channel ? byInput.get(number)?.id === channel.id : freeInput === number}
              onChoose={() => pick(number, byInput.get(number))}
            />
          ))}
        </ul>
        <LinkNote bench={bench} />
      </section>
      {channel ? (
        <>
          <section className="col" aria-label={`Wiring of ${channel.name}`}>
            <div className="bar">
              <h1>{channel.name}</h1>
              <span className="truncate text-soft">
                {channel.sensor.name}: {circuitWords(channel)}, on input {amplifier.label}.
                {channel.input_number}
              </span>
            </div>
            <div className="min-h-0 flex-1 overflow-auto">
              <BridgeDrawing channel={channel} amplifier={amplifier} />
            </div>
          </section>
          <ChannelInspector key={channel.id} setup={setup} channel={channel} />
        </>
      ) : (
        <GiveSensor
          key={freeInput}
          setup={setup}
          amplifier={amplifier}
          input={freeInput ?? 1}
          onWired={() => setFree(null)}
        />
      )}
    </div>
  )
}

function AmplifierHead({ amplifier }: { amplifier: Bench['amplifiers'][number] }) {
  const linked = amplifier.link === 'linked'
  return (
    <div className="grid flex-none grid-cols-[1fr_auto] gap-x-2 border-b border-rule bg-paper px-4 py-2 leading-[17px]">
      <b className="font-[640]">{amplifier.label}, eight bridge inputs</b>
      <b className={`font-[620] ${linked ? 'text-moss' : 'text-signal'}`}>
        {linked ? 'Linked' : 'Not linked'}
      </b>
      <span className="text-[12px] text-soft">
        {amplifier.serial
          ? `serial ${amplifier.serial}, firmware ${amplifier.firmware}`
          : 'has not answered yet'}
      </span>
      {amplifier.temperature_c !== null && (
        <span className="text-[12px] text-soft">
          <span className="figure text-ink">{figure(amplifier.temperature_c, 0)}</span> °C
        </span>
      )}
    </div>
  )
}

function LinkNote({ bench }: { bench: Bench }) {
  const lost = [...bench.amplifiers, ...(bench.actuator ? [bench.actuator] : [])].filter(
    (d) => d.link === 'lost',
  )
  return lost.map((d) => (
    <p
      key={d.label}
      role="alert"
      className="border-t border-rule bg-signal-wash px-4 py-2 text-signal"
    >
      <b className="font-[620]">{d.label} is not linked:</b> {d.link_note}
    </p>
  ))
}

interface RowProps {
  label: string
  channel?: Channel
  chosen: boolean
  onChoose: () => void
}

function InputRow({ label, channel, chosen, onChoose }: RowProps) {
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
        <Diamond
          size={20}
          active={channel?.active_arms ?? []}
          inside={channel ? insideOf(channel) : 'none'}
        />
        <span className="min-w-0 leading-4">
          <b className="block truncate font-[620]">{channel?.name ?? 'Free'}</b>
          <span className="block truncate text-[12px] text-soft">
            {channel ? circuitShort(channel) : 'give it a sensor'}
          </span>
        </span>
        {channel ? <RawReading id={channel.id} /> : <span />}
      </button>
    </li>
  )
}

function RawReading({ id }: { id: number }) {
  const reading = useReading(id)
  if (reading?.clipped) return <b className="font-[620] text-signal">Clipped</b>
  return (
    <span>
      <span className="figure">{figure(reading?.raw, 4)}</span>{' '}
      <span className="text-[12px] text-soft">mV/V</span>
    </span>
  )
}
