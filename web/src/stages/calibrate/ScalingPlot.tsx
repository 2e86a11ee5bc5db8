import { useCallback, useMemo } from 'react'
import type uPlot from 'uplot'

import type { Channel } from '../../api/client'
import { useReading } from '../../live/LiveProvider'
import { Plot } from '../../plots/Plot'
import { fromSi } from '../../ui/format'

const NAMES: Record<string, string> = { force: 'Force', extension: 'Extension', strain: 'Strain' }

/** The scaling as a line over the amplifier's range, with the reading on it. */
export function ScalingPlot({ channel: c }: { channel: Channel }) {
  const reading = useReading(c.key)
  const zero = c.zero_mv_v ?? 0
  const reach = Math.min(c.range_mv_v, c.rated_output_mv_v ?? c.range_mv_v / 4)
  const line = useMemo(() => {
    const x = [-reach, 0, reach]
    return [x, x.map((v) => fromSi((v - zero) * c.per_mv_v, c.unit))] as uPlot.AlignedData
  }, [c.per_mv_v, c.unit, reach, zero])
  const data = useCallback(() => line, [line])
  const at =
    reading && !reading.clipped ? ([reading.raw, fromSi(reading.value, c.unit)] as const) : null
  return (
    <section className="col p-1" aria-label="Scaling line">
      <Plot
        curves={[{ name: 'in force', colour: '--curve-1' }]}
        data={data}
        xName="Signal"
        xUnit="mV/V"
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
