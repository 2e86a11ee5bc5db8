import { useCallback, useMemo, useState } from 'react'
import type uPlot from 'uplot'

import { changeScaling } from '../../../api/actions'
import type { Channel, Setup } from '../../../api/client'
import type { CheckedSignal, SignalCheck } from '../../../api/signals'
import { At } from '../../../plots/At'
import { padded, Plot } from '../../../plots/Plot'
import { Button } from '../../../ui/Button'
import { figure } from '../../../ui/format'
import { attempt } from '../../../ui/notices'
import { spanFromSi } from '../../../ui/units'
import { span } from './small'
import { Verdict } from './SignalTable'

interface Props {
  setup: Setup
  check: SignalCheck
  found: CheckedSignal
  channel: Channel
}

/** A channel from near: its first periods, its spectrum, what would mend it, another over it. */
export function SignalDetail({ setup, check, found, channel }: Props) {
  return (
    <aside
      aria-label={`Signal of ${found.name}`}
      className="flex min-h-0 flex-col overflow-y-auto border-l border-rule"
    >
      <div className="flex-none border-b border-rule px-4 py-2.5">
        <div className="flex items-start gap-2">
          <b className="text-lead font-strong">{found.name}</b>
          <span className="text-small leading-4.5">
            <Verdict channel={channel} found={found} />
          </span>
        </div>
        <p className="mt-1 flex items-baseline gap-2">
          <span className="figure text-reading leading-11 font-number">
            {span(channel, found.noise)}
          </span>
          <span className="text-soft">{channel.unit} noise</span>
        </p>
      </div>
      <div className="flex h-32 flex-none">
        <Opening found={found} channel={channel} mains={check.mains_hz} />
      </div>
      {found.amplitude.length > 0 && (
        <div className="flex h-38 flex-none border-t border-rule">
          <Spectrum found={found} channel={channel} />
        </div>
      )}
      {found.hum.length > 0 && <HumShare found={found} />}
      <div className="grid min-h-46 flex-1 grid-cols-2 border-t border-rule">
        <Over setup={setup} check={check} found={found} channel={channel} />
        <Remedies channel={channel} found={found} check={check} />
      </div>
    </aside>
  )
}

const CURVE = [{ name: '', colour: '--curve-2' }]

function Opening({ found, channel, mains }: Omit<Props, 'setup' | 'check'> & { mains: number }) {
  const made = useMemo<uPlot.AlignedData>(
    () => [
      found.opening.map((_, i) => i / found.rate_hz),
      found.opening.map((v) => (v === null ? null : spanFromSi(v, channel.unit))),
    ],
    [found, channel.unit],
  )
  const data = useCallback(() => made, [made])
  return (
    <Plot
      curves={CURVE}
      data={data}
      xName={`First ${figure((made[0].length / found.rate_hz) * mains, 0)} periods of the mains`}
      xUnit="s"
      yName={found.name}
      yUnit={`${channel.unit}, less its mean`}
      label={`First samples of ${found.name}`}
    />
  )
}

function Spectrum({ found, channel }: Omit<Props, 'setup' | 'check'>) {
  const step = found.rate_hz / 2 / found.amplitude.length
  const made = useMemo<uPlot.AlignedData>(
    () => [
      found.amplitude.map((_, i) => (i + 0.5) * step),
      found.amplitude.map((v) => (v && v > 0 ? spanFromSi(v, channel.unit) : null)),
    ],
    [found, channel.unit, step],
  )
  const data = useCallback(() => made, [made])
  const highest = Math.max(0, ...(made[1] as (number | null)[]).map((v) => v ?? 0))
  const usual = Math.abs(spanFromSi(found.noise ?? 0, channel.unit)) / 20
  const named = found.hum
    .filter(({ value }) => spanFromSi(value, channel.unit) > 5 * usual)
    .slice(0, 5)
  return (
    <Plot
      curves={CURVE}
      data={data}
      logY
      yRange={() => [(highest || 1) * 1e-4, (highest || 1) * 8]}
      xName="Frequency"
      xUnit="Hz"
      yName="Amplitude"
      yUnit={channel.unit}
      label={`Spectrum of ${found.name}`}
      overlay={(plot) =>
        named.map(({ hz, value }) => (
          <At key={hz} plot={plot} x={hz} y={spanFromSi(value, channel.unit)}>
            <span className="absolute bottom-1 -translate-x-1/2 text-center text-note leading-3.25 whitespace-nowrap">
              <b className="block font-strong text-vermilion">{figure(hz, 0)} Hz</b>
              <span className="figure">{span(channel, value)}</span>
            </span>
          </At>
        ))
      }
    />
  )
}

/** How much of the noise's power is hum. */
function HumShare({ found }: { found: CheckedSignal }) {
  const share = found.hum_share
  return (
    <div className="flex-none border-t border-rule px-4 py-2 text-small">
      <p>
        Hum makes <b className="figure font-strong">{figure(share * 100, 0)}</b> % of the noise, by
        power
      </p>
      <svg viewBox="0 0 100 8" preserveAspectRatio="none" className="h-3.5 w-full" aria-hidden>
        <rect width="100" height="8" fill="var(--well)" />
        <rect width={100 * share} height="8" fill="var(--curve-2)" />
      </svg>
    </div>
  )
}

/** Where both have a value. */
function pairsOf(
  xs: CheckedSignal['points'],
  ys: CheckedSignal['points'],
  xUnit: string,
  yUnit: string,
): uPlot.AlignedData {
  const pairs = xs.flatMap((x, i): [number, number][] => {
    const y = ys[i]
    return x === null || y == null ? [] : [[spanFromSi(x, xUnit), spanFromSi(y, yUnit)]]
  })
  pairs.sort((a, b) => a[0] - b[0]) // dots are not joined
  return [pairs.map(([x]) => x), pairs.map(([, y]) => y)]
}

/** Any other channel across, this one up: what it goes with. */
function Over({ setup, check, found, channel }: Props) {
  const others = check.channels.filter((c) => c.key !== found.key && c.rate_hz === found.rate_hz)
  const [chosen, choose] = useState('')
  const across = others.find((c) => c.key === chosen) ?? others[0]
  const unit = setup.channels.find((c) => c.key === across?.key)?.unit ?? ''
  const made = pairsOf(across?.points ?? [], found.points, unit, channel.unit)
  const data = () => made
  const curves = useMemo(() => [{ name: '', colour: '--curve-2', dots: true }], [])
  if (!across) return <p className="p-4 text-small text-soft">No other channel at its rate.</p>
  return (
    <div className="flex min-h-0 flex-col border-r border-rule">
      <label className="flex-none px-2 pt-1 text-small text-soft">
        Over{' '}
        <select
          aria-label="Channel across"
          value={across.key}
          onChange={(e) => choose(e.target.value)}
          className="border-b border-dotted border-soft bg-transparent font-number text-ink"
        >
          {others.map((c) => (
            <option key={c.key} value={c.key}>
              {c.name}
            </option>
          ))}
        </select>
      </label>
      <Plot
        key={across.key}
        curves={curves}
        data={data}
        xRange={() => padded(made[0][0] ?? 0, made[0].at(-1) ?? 1)}
        xName={across.name}
        xUnit={unit}
        yName={found.name}
        yUnit={channel.unit}
        label={`${found.name} over ${across.name}`}
      />
    </div>
  )
}

/** What to look at first, by what is wrong. */
const HINTS: Record<CheckedSignal['findings'][number]['kind'], string> = {
  clipped: 'Check its wiring: the check names the wire that is broken or changed.',
  flat: 'See whether what it is wired to is switched on.',
  hum: '',
  drifts: 'Let it warm up, or take the load off that still moves it; then look again.',
  noisier: 'See what has changed since: a plug, a screen, a machine that runs beside it.',
  alike: 'One load moves both, or one is wired into the other: look at one over the other.',
}

/** What would mend a hum, and what that costs. */
function Remedies({ channel, found, check }: Omit<Props, 'setup'>) {
  const mains = check.mains_hz
  const hums = found.findings.some((f) => f.kind === 'hum')
  const rejects = channel.steps.some((s) => s.kind === 'mains_rejection' && s.on)
  const add = () => {
    const step = { kind: 'mains_rejection' as const, on: true, mains_hz: mains }
    void attempt(changeScaling(channel.id, { steps: [...channel.steps, step] }))
  }
  if (!hums)
    return (
      <p className="p-4 text-small text-soft">
        {found.findings.length ? HINTS[found.findings[0]!.kind] : 'Nothing to mend.'}
      </p>
    )
  return (
    <section aria-label="What would mend it" className="flex flex-col gap-2 p-3 text-small">
      <h3>What would mend it</h3>
      <Remedy
        words="Screen on at one end only"
        more="costs nothing of the signal"
        then={span(channel, found.without_hum)}
      />
      <Remedy
        words={`Means over ${figure(1000 / mains, 0)} ms`}
        more={`6 Hz would read ${figure(100 * check.averaging_loss, 1)} % low`}
        then={span(channel, found.averaged)}
      />
      <span className="mt-auto">
        {rejects ? (
          <p className="text-soft">
            Its reading has mains rejection already; raw samples keep hum.
          </p>
        ) : (
          <Button look="go" size={36} onClick={add}>
            Reject mains in {found.name}
          </Button>
        )}
      </span>
    </section>
  )
}

function Remedy({ words, more, then }: { words: string; more: string; then: string }) {
  return (
    <p className="grid grid-cols-[1fr_auto] border-t border-rule pt-1 leading-4">
      <b className="font-strong">{words}</b>
      <span className="figure text-lead">{then}</span>
      <span className="text-soft">{more}</span>
      <span className="text-soft">then</span>
    </p>
  )
}
