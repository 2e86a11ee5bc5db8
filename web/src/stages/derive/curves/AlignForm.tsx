import type { Alignment } from '../../../api/curves'
import type { RunReading } from '../../../api/readings'
import { EditableNumber, EditableText } from '../../../ui/Editable'
import { fromSi, spanFromSi, spanToSi, toSi } from '../../../ui/units'

interface FormProps<A> {
  align: A
  channels: readonly RunReading[]
  change: (align: Alignment) => void
}

type Of<K extends Alignment['kind']> = Extract<Alignment, { kind?: K }>

/** The ways to lay runs over each other; a kind more is an entry here. */
const KINDS: Record<
  string,
  {
    label: string
    seed: (channel: string) => Alignment
    Form?: (props: FormProps<never>) => React.ReactNode
  }
> = {
  start: { label: 'their starts', seed: () => ({ kind: 'start' }) },
  threshold: {
    label: 'a threshold',
    seed: (channel) => ({ kind: 'threshold', channel, level: 0, hysteresis: 0, rising: true }),
    Form: ThresholdForm,
  },
  peak: {
    label: 'a peak',
    seed: (channel) => ({ kind: 'peak', channel, lowest: false }),
    Form: PeakForm,
  },
  marker: { label: 'a marker', seed: () => ({ kind: 'marker', text: 'marker' }), Form: MarkerForm },
}

/** Which instant of each run lies at zero. */
export function AlignForm({ align, channels, change }: FormProps<Alignment>) {
  const kind = KINDS[align.kind ?? 'start']!
  const Form = kind.Form as ((props: FormProps<Alignment>) => React.ReactNode) | undefined
  return (
    <span className="flex flex-wrap items-center gap-x-3 text-small text-soft">
      <label>
        aligned at{' '}
        <select
          aria-label="Aligned at"
          value={align.kind}
          onChange={(e) => change(KINDS[e.target.value]!.seed(channels[0]?.name ?? ''))}
          className="border-b border-dotted border-soft bg-transparent font-number text-ink"
        >
          {Object.entries(KINDS).map(([name, { label }]) => (
            <option key={name} value={name}>
              {label}
            </option>
          ))}
        </select>
      </label>
      {Form && <Form align={align} channels={channels} change={change} />}
    </span>
  )
}

function ChannelChoice(props: {
  value: string
  channels: readonly RunReading[]
  onChoose: (name: string) => void
}) {
  return (
    <select
      aria-label="Channel of the alignment"
      value={props.value}
      onChange={(e) => props.onChoose(e.target.value)}
      className="border-b border-dotted border-soft bg-transparent font-number text-ink"
    >
      {props.channels.map((c) => (
        <option key={c.key}>{c.name}</option>
      ))}
    </select>
  )
}

function ThresholdForm({ align, channels, change }: FormProps<Of<'threshold'>>) {
  const channel = channels.find((c) => c.name === align.channel)
  const unit = channel?.unit ?? ''
  const set = (more: Partial<Of<'threshold'>>) => change({ ...align, ...more } as Alignment)
  return (
    <>
      <ChannelChoice
        value={align.channel}
        channels={channels}
        onChoose={(c) => set({ channel: c })}
      />
      <select
        aria-label="Way"
        value={align.rising ? 'rises' : 'falls'}
        onChange={(e) => set({ rising: e.target.value === 'rises' })}
        className="border-b border-dotted border-soft bg-transparent font-number text-ink"
      >
        <option value="rises">rises through</option>
        <option value="falls">falls through</option>
      </select>
      <EditableNumber
        label="Level"
        hideLabel
        value={fromSi(align.level, unit)}
        unit={unit}
        decimals={channel?.decimals ?? 2}
        onSave={async (v) => set({ level: toSi(v, unit) })}
      />
      <EditableNumber
        label="having been beyond by"
        value={spanFromSi(align.hysteresis ?? 0, unit)}
        unit={unit}
        decimals={channel?.decimals ?? 2}
        onSave={async (v) => set({ hysteresis: Math.abs(spanToSi(v, unit)) })}
      />
    </>
  )
}

function PeakForm({ align, channels, change }: FormProps<Of<'peak'>>) {
  const set = (more: Partial<Of<'peak'>>) => change({ ...align, ...more } as Alignment)
  return (
    <>
      <select
        aria-label="Which peak"
        value={align.lowest ? 'lowest' : 'highest'}
        onChange={(e) => set({ lowest: e.target.value === 'lowest' })}
        className="border-b border-dotted border-soft bg-transparent font-number text-ink"
      >
        <option value="highest">highest</option>
        <option value="lowest">lowest</option>
      </select>
      <ChannelChoice
        value={align.channel}
        channels={channels}
        onChoose={(c) => set({ channel: c })}
      />
    </>
  )
}

function MarkerForm({ align, change }: FormProps<Of<'marker'>>) {
  return (
    <EditableText
      label="with the words"
      value={align.text}
      onSave={async (text) =>
        change({ kind: 'marker', text: text.trim().slice(0, 30) || 'marker' })
      }
    />
  )
}
