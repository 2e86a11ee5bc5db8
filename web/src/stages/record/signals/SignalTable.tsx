import type { Channel, Setup } from '../../../api/client'
import type { CheckedSignal } from '../../../api/signals'
import { insideOf } from '../../../bench-strip/BenchStrip'
import { InputSign } from '../../../ui/Diamond'
import { figure } from '../../../ui/format'
import { Icon } from '../../../ui/Icon'
import { Bits, SpectrumPicture, TimePicture } from './pictures'
import { smallSignal, span } from './small'

interface Props {
  setup: Setup
  channels: readonly CheckedSignal[]
  chosen: string
  onChoose: (key: string) => void
}

const NOISES = 5 // of the noise of last time, half of what a picture over time spans

/** A row for each channel: how it looks, its noise, the converter's bits, and the verdict. */
export function SignalTable({ setup, channels, chosen, onChoose }: Props) {
  return (
    <div className="min-h-0 flex-1 overflow-auto">
      <table className="w-full whitespace-nowrap" aria-label="Signals">
        <thead className="sticky top-0 z-10 bg-paper text-small">
          <tr className="h-9 border-b border-rule-strong text-left">
            <th className="pl-4 font-number">Channel</th>
            <th className="font-number">Time, 2 s</th>
            <th className="font-number">Amplitude by frequency</th>
            <th className="text-right font-number">Noise</th>
            <th className="pl-3 text-right font-number">Before</th>
            <th className="pl-4 font-number">Bits used</th>
            <th className="font-number">Verdict</th>
          </tr>
        </thead>
        <tbody>
          {channels.map((one) => {
            const channel = setup.channels.find((c) => c.key === one.key)
            return channel ? (
              <Row
                key={one.key}
                channel={channel}
                found={one}
                isChosen={one.key === chosen}
                onChoose={() => onChoose(one.key)}
              />
            ) : null
          })}
        </tbody>
      </table>
    </div>
  )
}

interface RowProps {
  channel: Channel
  found: CheckedSignal
  isChosen: boolean
  onChoose: () => void
}

function Row({ channel, found, isChosen, onChoose }: RowProps) {
  const blocked = found.findings.some((f) => f.blocks)
  const doubtful = found.findings.length > 0
  const tone = blocked ? 'var(--signal)' : doubtful ? 'var(--curve-2)' : 'var(--ink-soft)'
  const [noise, unit] = smallSignal(channel, found.noise_signal)
  const half = ((found.noise ?? 0) / (found.noise_before ?? 1)) * NOISES
  const top = 10 * (found.noise ?? 0) || 1
  const hum = found.findings.some((f) => f.kind === 'hum') ? found.hum : []
  return (
    <tr
      className={`h-11.5 border-b border-rule ${isChosen ? 'bg-marking-wash shadow-chosen-left' : ''}`}
    >
      <th className="pl-4 text-left">
        <button
          type="button"
          aria-pressed={isChosen}
          onClick={onChoose}
          className="flex items-center gap-2 pr-3 text-left"
        >
          <InputSign
            signal={channel.signal}
            size={18}
            active={channel.active_arms}
            inside={insideOf(channel)}
          />
          <span className="leading-4">
            <b className="font-strong">{found.name}</b>
            <span className="figure block text-small font-normal text-soft">{found.input}</span>
          </span>
        </button>
      </th>
      <td>
        <TimePicture low={found.low} high={found.high} half={half} tone={tone} />
      </td>
      <td className="pr-3">
        {found.amplitude.length > 0 ? (
          <SpectrumPicture
            amplitude={found.amplitude}
            top={top}
            hum={hum}
            rateHz={found.rate_hz}
            tone={tone}
          />
        ) : (
          <span className="text-small text-soft">no spectrum while clipped</span>
        )}
      </td>
      <td className="text-right text-small leading-4.25">
        <span className="figure text-ink">{noise}</span> <span className="text-soft">{unit}</span>
        <br />
        <span className="figure text-ink">{span(channel, found.noise)}</span>{' '}
        <span className="text-soft">{channel.unit}</span>
      </td>
      <td className="figure pl-3 text-right text-small">
        {found.noise_before === null ? '–' : `×${figure(found.noise_before, 1)}`}
      </td>
      <td className="pr-4 pl-4 text-small">
        {found.level_bits === null ? (
          <span className="text-soft">no counts</span>
        ) : (
          <>
            <Bits level={found.level_bits} noise={found.noise_bits ?? 0} blocked={blocked} />
            <span className="figure">{figure(found.level_bits, 0)}</span>{' '}
            <span className="text-soft">{figure(found.noise_bits, 0)} noise</span>
          </>
        )}
      </td>
      <td className="pr-3 text-small leading-4 whitespace-normal">
        <Verdict channel={channel} found={found} />
      </td>
    </tr>
  )
}

/** What is wrong in words, the worst first; colour and sign say it too. */
export function Verdict({ channel, found }: { channel: Channel; found: CheckedSignal }) {
  if (found.findings.length === 0)
    return (
      <span className="flex items-center gap-1.5 text-moss">
        <Icon name="tick" size={13} /> well
      </span>
    )
  return found.findings.map(({ words, size, blocks }) => (
    <span
      key={words}
      className={`flex items-center gap-1.5 font-strong ${blocks ? 'text-signal' : 'text-marking-ink'}`}
    >
      <Icon name={blocks ? 'cross' : 'warn'} size={13} />
      <span>
        {words}
        {size != null && (
          <>
            {' '}
            <span className="figure">{span(channel, size)}</span> {channel.unit}
          </>
        )}
      </span>
    </span>
  ))
}
