import { useQuery } from '@tanstack/react-query'
import { useCallback, useMemo } from 'react'
import type uPlot from 'uplot'

import type { Channel } from '../../api/client'
import { curveQuery } from '../../api/queries'
import { useReading } from '../../live/LiveProvider'
import { Plot } from '../../plots/Plot'
import { fromSi, signalUnit } from '../../ui/units'

/** The scaling as a line over the amplifier's range, with the reading on it. */
export function ScalingPlot({ channel: c }: { channel: Channel }) {
  const reading = useReading(c.key)
  const signal = signalUnit(c.signal)
  const curve = useQuery(curveQuery(c)).data
  const line = useMemo(
    () =>
      [
        (curve?.signals ?? []).map((v) => fromSi(v, signal)),
        (curve?.readings ?? []).map((v) => fromSi(v, c.unit)),
      ] as uPlot.AlignedData,
    [curve, c.unit, signal],
  )
  const data = useCallback(() => line, [line])
  const at =
    reading && Number.isFinite(reading.value)
      ? ([fromSi(reading.raw, signal), fromSi(reading.value, c.unit)] as const)
      : null
  return (
    <section className="flex min-h-0 flex-1 flex-col p-1" aria-label="Scaling line">
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
