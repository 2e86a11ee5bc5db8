import type { Bench, Channel, Setup } from '../api/client'
import { removeDevice } from '../api/projects'
import { useMay } from '../api/queries'
import { useReading } from '../live/LiveProvider'
import { Button } from '../ui/Button'
import { Fact } from '../ui/Fact'
import { figure } from '../ui/format'
import { attempt } from '../ui/notices'
import { fromSi } from '../ui/units'
import { SignalNow } from '../stages/wire/SignalNow'
import { clockWords, linkWords, spokenAddress, type Device } from './link'

interface Props {
  bench: Bench
  setup: Setup
  device: Device
}

/** All that is known of one device, and what its inputs read now. */
export function DeviceView({ bench, setup, device: d }: Props) {
  const may = useMay('set up benches')
  const [words, colour] = linkWords(d)
  const byInput = new Map(setup.channels.map((c) => [c.input_id, c]))
  const rate = setup.rates.find((r) => r.device_id === d.id)?.rate_hz
  return (
    <section className="col" aria-label={`Device ${d.label}`}>
      <div className="bar">
        <h1>{d.label}</h1>
        <span className="truncate text-soft">
          {d.driver} at {spokenAddress(d)}
        </span>
        <b className={`ml-auto font-strong ${colour}`}>{words}</b>
      </div>
      <div className="min-h-0 flex-1 overflow-auto">
        {d.link_note && (
          <p role="alert" className={`border-b border-rule px-4 py-2 font-number ${colour}`}>
            {d.link_note}
          </p>
        )}
        {d.twin && (
          <p role="alert" className="border-b border-rule px-4 py-2 font-number text-marking-ink">
            {d.twin} says that it has serial {d.serial} too: one of both has the wrong address.
          </p>
        )}
        <div className="grid grid-cols-2 gap-x-8 border-b border-rule px-4 py-2">
          <Facts
            facts={[
              ['Says it is', d.identity || 'has not answered yet'],
              ['Serial', d.serial || 'none'],
              ['Firmware', d.firmware || 'not told'],
              ['Self-test', d.self_test || 'not told'],
            ]}
          />
          <Facts
            facts={[
              ['Controlled by', d.link === 'linked' ? 'this bench' : d.controlled_by || 'nobody'],
              ['Clock', clockWords(d) || 'not compared yet'],
              [
                'Inside',
                d.temperature_c === null ? 'not told' : `${figure(d.temperature_c, 0)} °C`,
              ],
              ['Power', d.battery === null ? 'mains' : `battery, ${figure(d.battery * 100, 0)} %`],
              ['Samples', rate ? `${rate} Hz in this setup` : 'not used by this setup'],
            ]}
          />
        </div>
        {d.inputs.length > 0 && (
          <table className="grid-table">
            <thead>
              <tr>
                <th className="pl-4!">Input</th>
                <th>Measures</th>
                <th>Channel</th>
                <th className="text-right!">Signal now</th>
                <th className="text-right!">Reads</th>
                <th className="text-right!">Lowest</th>
                <th className="text-right!">Highest</th>
              </tr>
            </thead>
            <tbody>
              {d.inputs.map((input) => (
                <tr key={input.id} className="h-7">
                  <td className="figure pl-4!">{input.label}</td>
                  <td className="text-soft">{input.signal}</td>
                  <InputNow channel={byInput.get(input.id)} />
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </div>
      {may && (
        <div className="flex flex-none items-center gap-3 border-t border-rule bg-paper px-4 py-2">
          <Button onClick={() => void attempt(removeDevice(bench.id, d.id))}>
            Take {d.label} off the bench
          </Button>
          <span className="text-soft">refused while a setup uses it</span>
        </div>
      )}
    </section>
  )
}

const Facts = ({ facts }: { facts: readonly (readonly [string, string])[] }) => (
  <div>
    {facts.map(([name, value]) => (
      <Fact key={name} name={name}>
        {value}
      </Fact>
    ))}
  </div>
)

function InputNow({ channel }: { channel?: Channel }) {
  if (!channel)
    return (
      <td colSpan={5} className="text-soft">
        free
      </td>
    )
  return <ChannelNow channel={channel} />
}

function ChannelNow({ channel }: { channel: Channel }) {
  const now = useReading(channel.key)
  const shown = (si?: number) =>
    figure(si === undefined ? si : fromSi(si, channel.unit), channel.decimals)
  return (
    <>
      <td>
        <b className="font-strong">{channel.name}</b>
      </td>
      <td className="text-right">
        <SignalNow channel={channel} />
      </td>
      <td className="text-right">
        <span className="figure">{shown(now?.value)}</span>{' '}
        <span className="text-soft">{channel.unit}</span>
      </td>
      <td className="figure text-right">{shown(now?.lowest)}</td>
      <td className="figure text-right">{shown(now?.highest)}</td>
    </>
  )
}
