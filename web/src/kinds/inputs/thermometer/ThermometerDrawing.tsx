import { useReading } from '../../../live/LiveProvider'
import { figure } from '../../../ui/format'
import { coreColour } from '../drawing/coreColour'
import type { DrawingProps } from '../input'
import { ChannelName, Core, Meter, PlugPins, Resistor } from '../drawing/parts'
import { Sheet } from '../drawing/Sheet'

/** One lead brings the current, two take it back: the module takes their resistance off. */
export function ThermometerDrawing({ channel, device }: DrawingProps) {
  const reading = useReading(channel.key)
  const colour = (pin: number) => coreColour(channel, pin)
  const pins = [142, 210, 278] as const
  const words = ['current', 'back', 'back, lead'] as const
  return (
    <Sheet channel={channel} device={device} make="Module" height={420}>
      <rect
        x="30"
        y="100"
        width="140"
        height="220"
        rx="3"
        fill="var(--well)"
        stroke="var(--rule-strong)"
      />
      <text x="34" y="90" fontSize="12" style={{ fill: 'var(--ink-soft)' }}>
        on the part
      </text>
      <path d="M96 142V186M96 234V278" stroke="var(--petrol)" strokeWidth="4" />
      <Resistor x={96} y={210} angle={90} />
      <ChannelName x={112} y={206} name={channel.name} />
      <text x="112" y="224" fontSize="12">
        Pt100
      </text>
      <Core d="M96 142H358" colour={colour(1)} pin={1} y={142} />
      <Core d="M96 278H240V210H358" colour={colour(2)} pin={2} y={210} />
      <Core d="M96 278H358" colour={colour(3)} pin={3} y={278} />
      {pins.map((y, i) => (
        <text key={y} x="250" y={y - 9} fontSize="12">
          {`${colour(i + 1)}, ${words[i]}`}
        </text>
      ))}
      <PlugPins x={372} pins={pins.map((y, i) => [i + 1, y, true])} />
      <path
        d="M382 142H594V186M594 234V300H430V210H382"
        fill="none"
        stroke="var(--ink)"
        strokeWidth="1.5"
      />
      <path d="M382 278H402" stroke="var(--ink-soft)" strokeDasharray="3 3" />
      <circle cx="594" cy="210" r="24" fill="var(--sheet)" stroke="var(--ink)" strokeWidth="1.5" />
      <text x="594" y="207" fontSize="12" textAnchor="middle" className="n">
        1
      </text>
      <text x="594" y="221" fontSize="12" textAnchor="middle">
        mA
      </text>
      <Meter
        x={402}
        y={176}
        bad={reading?.clipped ?? false}
        title={reading?.clipped ? 'Open' : `${figure(reading?.raw, 3)} Ω`}
        note={reading?.clipped ? 'no thermometer, or a broken core' : 'lead taken off'}
      />
    </Sheet>
  )
}
