import { useCallback, useMemo } from 'react'
import type uPlot from 'uplot'

import type { Channel } from '../../api/client'
import { useReading } from '../../live/LiveProvider'
import { Plot } from '../../plots/Plot'
import { fromSi, signalUnit } from '../../ui/units'

/** From where to where the signal may go, SI: the range, or what the sensor gives of it. */
function endsOf({ conditioning, scaling, wiring, resting_signal: rest }: Channel): number[] {
  if (wiring.kind === 'loop') return [4e-3, 20e-3].map((i) => i * wiring.resistor_ohm)
  if (scaling.kind === 'platinum') return [rest * 0.8, rest * 1.4]
  const range = conditioning.kind === 'bridge' ? conditioning.range_mv_v * 1e-3 : 10
  const sensor = scaling.kind === 'rated_output' ? Math.abs(scaling.rated_output) : range / 4
  const reach = Math.min(range, sensor)
  return [-reach, reach]
}

/** The scaling as a line over the amplifier's range, with the reading on it. */
export function ScalingPlot({ channel: c }: { channel: Channel }) {
  const reading = useReading(c.key)
  const signal = signalUnit(c.signal)
  const line = useMemo(() => {
    const x = endsOf(c)
    return [
      x.map((v) => fromSi(v, signal)),
      x.map((v) => fromSi(c.reading_at_rest + (v - c.resting_signal) * c.per_signal, c.unit)),
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
        yName={c.quantity.charAt(0).toUpperCase() + c.quantity.slice(1)}
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
