import { useReading } from '../../../live/LiveProvider'
import { figure } from '../../../ui/format'
import { coreColour } from '../drawing/coreColour'
import type { DrawingProps } from '../input'
import { Caption, ChannelName, Core, Meter, PlugPins, Supply } from '../drawing/parts'
import { Sheet } from '../drawing/Sheet'

/** A toothed wheel before its pick-up, which the device supplies. */
export function PulseDrawing({ channel, device }: DrawingProps) {
  const reading = useReading(channel.key)
  const colour = (pin: number) => coreColour(channel, pin)
  const still = reading !== undefined && reading.raw === 0
  return (
    <Sheet channel={channel} device={device} make="Module" height={420}>
      <Caption x={34} y={102} words={channel.sensor.name} />
      <circle cx="90" cy="210" r="52" fill="var(--sheet)" stroke="var(--petrol)" strokeWidth="3" />
      <circle
        cx="90"
        cy="210"
        r="58"
        fill="none"
        stroke="var(--petrol)"
        strokeWidth="9"
        strokeDasharray="10 8.200"
      />
      <ChannelName x={90} y={215} name={channel.name} anchor="middle" />
      <rect x="158" y="186" width="30" height="48" fill="var(--well)" stroke="var(--ink)" />
      <Core d="M178 186V142H358" colour={colour(1)} pin={1} y={142} />
      <Core d="M188 210H358" colour={colour(2)} pin={2} y={210} />
      <Core d="M178 234V278H358" colour={colour(3)} pin={3} y={278} />
      <text x="228" y="133" fontSize="12">{`${colour(1)}, supply +`}</text>
      <text x="228" y="201" fontSize="12">{`${colour(2)}, pulses`}</text>
      <text x="228" y="269" fontSize="12">{`${colour(3)}, supply −`}</text>
      <PlugPins
        x={372}
        pins={[
          [1, 142, true],
          [2, 210, true],
          [3, 278, true],
        ]}
      />
      <path
        d="M382 142H594V186M594 234V278H382"
        fill="none"
        stroke="var(--ink)"
        strokeWidth="1.5"
      />
      <Supply volts="12" />
      <Meter
        x={402}
        y={210}
        bad={false}
        title={`${figure(reading?.raw, 2)} Hz`}
        note={still ? 'no pulses: it stands, or a core is off' : 'pulses a second'}
      />
    </Sheet>
  )
}
