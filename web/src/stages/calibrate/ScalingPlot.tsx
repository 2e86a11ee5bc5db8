import { useCallback, useMemo } from 'react'
import type uPlot from 'uplot'

import type { Channel } from '../../api/client'
import { useReading } from '../../live/LiveProvider'
import { Plot } from '../../plots/Plot'
import { fromSi, signalUnit, spanFromSi } from '../../ui/units'

const NAMES: Record<string, string> = { force: 'Force', extension: 'Extension', strain: 'Strain' }

/** As far as the input goes, or the sensor if that is less: SI of the signal. */
function reachOf({ conditioning, scaling }: Channel): number {
  const range = conditioning.kind === 'bridge' ? conditioning.range_mv_v * 1e-3 : 1
  const sensor = scaling.kind === 'rated_output' ? Math.abs(scaling.rated_output) : range / 4
  return Math.min(range, sensor)
}

/** The scaling as a line over the amplifier's range, with the reading on it. */
export function ScalingPlot({ channel: c }: { channel: Channel }) {
  const reading = useReading(c.key)
  const signal = signalUnit(c.signal)
  const line = useMemo(() => {
    const zero = c.zero ?? 0
    const reach = reachOf(c)
    const x = [-reach, 0, reach]
    return [
      x.map((v) => fromSi(v, signal)),
      x.map((v) => spanFromSi((v - zero) * c.per_signal, c.unit)),
    ] as uPlot.AlignedData
  }, [c, signal])
  const data = useCallback(() => line, [line])
  const at =
    reading && !reading.clipped
      ? ([fromSi(reading.raw, signal), fromSi(reading.value, c.unit)] as const)
      : null
  return (
    <section className="col p-1" aria-label="Scaling line">
      <Plot
        curves={[{ name: 'in force', colour: '--curve-1' }]}
        data={data}
        xName="Signal"
        xUnit={signal}
        yName={NAMES[c.quantity] ?? c.quantity}
        yUnit={c.unit}
        label={`Scaling of ${c.name}`}
        overlay={(plot) =>
          at && (
            <span
              className="absolute size-3 -translate-1/2 rounded-full border-[1.6px] border-ink bg-marking"
              style={{ left: left(plot, at[0]), top: top(plot, at[1]) }}
            />
          )
        }
      />
    </section>
  )
}

const left = (plot: uPlot, x: number) => plot.valToPos(x, 'x') + plot.over.offsetLeft
const top = (plot: uPlot, y: number) => plot.valToPos(y, 'y') + plot.over.offsetTop
