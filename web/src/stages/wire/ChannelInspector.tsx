import { client, got, type Channel, type Setup } from '../../api/client'
import { changeChannel, undo } from '../../api/deeds'
import { queryClient, useMay } from '../../api/queries'
import { Button } from '../../ui/Button'
import { EditableNumber, EditableText } from '../../ui/Editable'
import { Fact, Section, Segments } from '../../ui/Fact'
import { figure } from '../../ui/format'
import { Icon } from '../../ui/Icon'
import { attempt } from '../../ui/notices'
import { coreFill } from './parts'
import { circuitWords } from './words'

const EXCITATIONS = ['1', '2.5', '5'] as const
const RANGES = ['2', '8', '40'] as const

export function ChannelInspector({ setup, channel }: { setup: Setup; channel: Channel }) {
  const may = useMay('wire channels')
  const lead = channel.lead_length_m * channel.lead_ohm_per_m
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
        <EditableNumber
          label="Resistance"
          value={channel.resistance_ohm}
          decimals={1}
          unit="Ω"
          disabled={!may}
          onSave={(resistance_ohm) => change({ resistance_ohm })}
        />
        <Fact name="Certificate due">
          <span className="figure">{channel.sensor.due_on ?? 'none'}</span>
        </Fact>
      </Section>
      <Section title="Bridge">
        <Fact name="Circuit">{circuitWords(channel)}</Fact>
        <Fact name="Excitation, V">
          <Segments
            label="Excitation"
            options={EXCITATIONS.map((v) => [v, v] as const)}
            value={`${channel.excitation_v}` as (typeof EXCITATIONS)[number]}
            disabled={!may}
            onChange={(v) => void attempt(change({ excitation_v: Number(v) }))}
          />
        </Fact>
        <Fact name="Range, ±mV/V">
          <Segments
            label="Range"
            options={RANGES.map((v) => [v, v] as const)}
            value={`${channel.range_mv_v}` as (typeof RANGES)[number]}
            disabled={!may}
            onChange={(v) => void attempt(change({ range_mv_v: Number(v) }))}
          />
        </Fact>
        <EditableNumber
          label="Lead length"
          value={channel.lead_length_m}
          decimals={2}
          unit="m"
          disabled={!may}
          onSave={(lead_length_m) => change({ lead_length_m })}
        />
        <Fact name="Lead, one core">
          <span className="figure">{figure(lead, 2)}</span> Ω
        </Fact>
      </Section>
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
            {core.colour}
            <span className="figure">{core.pin}</span>
            <span className="text-right">{core.function}</span>
          </div>
        ))}
      </Section>
      <Section title="Sign">
        <Fact name="Tension reads">{channel.reversed ? 'negative, reversed' : 'positive'}</Fact>
      </Section>
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
