import { useReading } from '../../../live/LiveProvider'
import { figure } from '../../../ui/format'
import { coreColour } from '../drawing/coreColour'
import type { DrawingProps } from '../input'
import { ChannelName, Core, Meter, PlugPins } from '../drawing/parts'
import { Sheet } from '../drawing/Sheet'

/** A voltage between two pins. */
export function VoltageDrawing({ channel, device }: DrawingProps) {
  const reading = useReading(channel.key)
  return (
    <Sheet channel={channel} device={device} make="Module" height={420}>
      <circle cx="100" cy="210" r="42" fill="var(--sheet)" stroke="var(--petrol)" strokeWidth="4" />
      <ChannelName x={100} y={215} name={channel.name} anchor="middle" />
      <Core d="M100 168V142H358" colour={coreColour(channel, 1)} pin={1} y={142} />
      <Core d="M100 252V278H358" colour={coreColour(channel, 2)} pin={2} y={278} />
      <PlugPins
        x={372}
        pins={[
          [1, 142, true],
          [2, 278, true],
        ]}
      />
      <path d="M382 142H402V278H382" fill="none" stroke="var(--ink)" strokeWidth="1.5" />
      <Meter
        x={402}
        y={210}
        bad={reading?.clipped ?? false}
        title={`${figure(reading?.raw, 4)} V`}
        note="range ±10 V"
      />
    </Sheet>
  )
}
