import { client, got, type Bench, type Channel, type Setup } from '../../api/client'
import { changeChannel, undo } from '../../api/deeds'
import { queryClient, useMay } from '../../api/queries'
import { Button } from '../../ui/Button'
import { EditableText } from '../../ui/Editable'
import { Fact, Section } from '../../ui/Fact'
import { Icon } from '../../ui/Icon'
import { attempt } from '../../ui/notices'
import { marksOf } from './marks'
import { coreFill } from './parts'
import { StandInFaults } from './StandInFaults'
import { WiringForm } from './WiringForm'

interface Props {
  setup: Setup
  bench: Bench
  channel: Channel
}

export function ChannelInspector({ setup, bench, channel }: Props) {
  const may = useMay('wire channels')
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
      </Section>
      <WiringForm channel={channel} disabled={!may} />
      <Section title="Cores and pins">
        {channel.sensor.cores.map((core) => (
          <div
            key={core.pin}
            className="grid min-h-6 grid-cols-[30px_1fr_24px_auto] items-center gap-1 border-t border-rule text-[12px] first-of-type:border-t-0"
          >
            <span
              className="h-2 w-[22px] border"
              style={{ background: coreFill(core.colour), borderColor: 'var(--core-edge)' }}
            />
            <span>
              {core.colour}
              {bad.includes(core.pin) && <b className="ml-1 font-[620] text-signal">look here</b>}
            </span>
            <span className="figure">{core.pin}</span>
            <span className="text-right">{core.function}</span>
          </div>
        ))}
      </Section>
      <Section title="Sign">
        <Fact name={channel.wiring.kind === 'bridge' ? 'Tension reads' : 'More reads'}>
          {channel.reversed ? 'negative, reversed' : 'positive'}
        </Fact>
      </Section>
      <StandInFaults channel={channel} bench={bench} />
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

async function takeOff(channel: Channel): Promise<void> {
  const path = { params: { path: { channel_id: channel.id } } }
  await attempt(got(client.DELETE('/api/channels/{channel_id}', path)))
  await queryClient.invalidateQueries({ queryKey: ['setup'] })
}

/** Every change is saved as it is made; these take it back and do it again. */
export function UndoRedo({ setup }: { setup: Setup }) {
  return (
    <span className="ml-auto flex items-center gap-1 text-soft">
      <span className="mr-1 text-[12px]">Saved</span>
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
