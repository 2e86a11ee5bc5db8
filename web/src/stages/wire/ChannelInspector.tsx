import { client, got, type Bench, type Channel, type Setup } from '../../api/client'
import { changeChannel, undo } from '../../api/actions'
import { writeSheet } from '../../api/plugs'
import { queryClient, useMay } from '../../api/queries'
import { Button } from '../../ui/Button'
import { EditableText } from '../../ui/Editable'
import { useReading } from '../../live/LiveProvider'
import { Fact, Section, Segments } from '../../ui/Fact'
import { figure } from '../../ui/format'
import { Icon } from '../../ui/Icon'
import { attempt, say } from '../../ui/notices'
import { fromSi, signalUnit, spanFromSi, toSi } from '../../ui/units'
import { marksOf } from '../../kinds/inputs/drawing/marks'
import { coreFill } from '../../kinds/inputs/drawing/parts'
import { SignTest } from './SignTest'
import { StandInFaults } from './StandInFaults'
import { WiringForm } from './WiringForm'

interface Props {
  setup: Setup
  bench: Bench
  channel: Channel
}

export function ChannelInspector({ setup, bench, channel }: Props) {
  const may = useMay('wire channels')
  const device = bench.devices.find((d) => d.id === channel.device_id)
  const bad = marksOf(channel).pins
  const change = (body: Parameters<typeof changeChannel>[1]) => changeChannel(channel.id, body)
  return (
    <section className="col overflow-y-auto" aria-label="Settings">
      <div className="bar">
        <h2>{channel.name}</h2>
        <span className="text-soft">settings</span>
        <UndoRedo setup={setup} />
      </div>
      <Section title="Sensor">
        <EditableText
          label="Channel"
          value={channel.name}
          disabled={!may}
          onSave={(name) => change({ name })}
        />
        <Fact name={channel.sensor.kind}>{channel.sensor.serial}</Fact>
        <Fact name="Certificate due">
          <span className="figure">{channel.sensor.due_on ?? 'none'}</span>
        </Fact>
        {bench.yoke_mine && device?.capabilities.includes('data sheets') && (
          <Fact name="Data sheet in the plug">
            <button
              type="button"
              className="font-number text-petrol underline underline-offset-2"
              onClick={() => void write(channel)}
            >
              Write it
            </button>
          </Fact>
        )}
      </Section>
      <Section title="In a run">
        <Fact name="Recorded">
          <Segments
            label="Recorded"
            options={[
              ['on', 'On'],
              ['off', 'Off'],
            ]}
            value={channel.recorded ? 'on' : 'off'}
            disabled={!may}
            onChange={(to) => void attempt(change({ recorded: to === 'on' }))}
          />
        </Fact>
      </Section>
      <WiringForm channel={channel} driver={device?.driver ?? ''} disabled={!may} />
      <Section title="Cores and pins">
        {channel.sensor.cores.map((core) => (
          <div
            key={core.pin}
            className="grid min-h-6 grid-cols-[30px_1fr_24px_auto] items-center gap-1 border-t border-rule text-small first-of-type:border-t-0"
          >
            <span
              className="h-2 w-5.5 border"
              style={{ background: coreFill(core.colour), borderColor: 'var(--core-edge)' }}
            />
            <span>
              {core.colour}
              {bad.includes(core.pin) && <b className="ml-1 font-strong text-signal">look here</b>}
            </span>
            <span className="figure">{core.pin}</span>
            <span className="text-right">{core.function}</span>
          </div>
        ))}
      </Section>
      <SignTest channel={channel} />
      <Now channel={channel} />
      <StandInFaults channel={channel} bench={bench} setup={setup} />
      {may && (
        <div className="px-4 py-3">
          <Button size={24} onClick={() => void takeOff(channel)}>
            Take {channel.name} off input {channel.input_label}
          </Button>
        </div>
      )}
    </section>
  )
}

/** What it reads, and by what: offset, gain, what is in force for it. */
function Now({ channel: c }: { channel: Channel }) {
  const now = useReading(c.key)
  const signal = signalUnit(c.signal)
  const inUnit = (si?: number) => figure(si === undefined ? si : fromSi(si, c.unit), c.decimals)
  const rows: [string, string, string][] = [
    ['Reads', now?.clipped ? 'clipped' : inUnit(now?.value), c.unit],
    ['Lowest since reset', inUnit(now?.lowest), c.unit],
    ['Highest since reset', inUnit(now?.highest), c.unit],
    ['Signal', figure(now && fromSi(now.raw, signal), 4), signal],
    ['Zero taken off', c.zero === null ? 'none' : figure(fromSi(c.zero, signal), 4), signal],
    ['Tare taken off', c.tare === null ? 'none' : inUnit(c.tare), c.unit],
    ['Gain', gainText(c), `${c.unit} per ${signal}`],
  ]
  return (
    <Section title="Now">
      {rows.map(([name, value, unit]) => (
        <Fact key={name} name={name}>
          <span className="figure">{value}</span>{' '}
          <span className="text-soft">{value === 'none' ? '' : unit}</span>
        </Fact>
      ))}
      <Fact name="Shunt check">
        {c.shunt_at ? c.shunt_at.slice(0, 10) : <span className="text-soft">none</span>}
      </Fact>
    </Section>
  )
}

/** The slope of its scaling near rest, in the units that people speak of. */
function gainText(c: Channel): string {
  const perSignal =
    c.per_signal * toSi(1, signalUnit(c.signal)) - c.per_signal * toSi(0, signalUnit(c.signal))
  return Number(spanFromSi(perSignal, c.unit).toPrecision(5)).toString().replace('-', '−')
}

async function write(channel: Channel): Promise<void> {
  if (await attempt(writeSheet(channel.id)))
    say(`${channel.sensor.serial} is in the memory of its plug at ${channel.input_label}`)
}

async function takeOff(channel: Channel): Promise<void> {
  const path = { params: { path: { channel_id: channel.id } } }
  await attempt(got(client.DELETE('/api/channels/{channel_id}', path)))
  await queryClient.invalidateQueries({ queryKey: ['setup'] })
}

/** Every change is saved as it is made; these take it back and do it again. */
export function UndoRedo({ setup }: { setup: Setup }) {
  return (
    <span className="ml-auto flex items-center gap-1 text-soft">
      <span className="mr-1 text-small">Saved</span>
      <button
        type="button"
        disabled={!setup.undo}
        title={setup.undo ? `Undo: ${setup.undo}` : 'Nothing to undo'}
        aria-label="Undo"
        onClick={() => void undo(setup.id)}
        className="p-1 disabled:opacity-40"
      >
        <Icon name="undo" size={14} />
      </button>
      <button
        type="button"
        disabled={!setup.redo}
        title={setup.redo ? `Redo: ${setup.redo}` : 'Nothing to redo'}
        aria-label="Redo"
        onClick={() => void undo(setup.id, true)}
        className="p-1 disabled:opacity-40"
      >
        <Icon name="redo" size={14} />
      </button>
    </span>
  )
}
