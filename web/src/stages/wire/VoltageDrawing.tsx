import { useReading } from '../../live/LiveProvider'
import { figure } from '../../ui/format'
import type { DrawingProps } from './drawing'
import { Core, Meter, PlugPins } from './parts'

/** A voltage between two pins. */
export function VoltageDrawing({ channel, device }: DrawingProps) {
  const reading = useReading(channel.key)
  return (
    <svg
      viewBox="0 0 640 420"
      className="mx-auto block h-full w-full"
      role="img"
      aria-label={`Wiring of ${channel.name}`}
    >
      <rect
        x="390"
        y="36"
        width="238"
        height="344"
        rx="3"
        fill="var(--paper)"
        stroke="var(--rule-strong)"
      />
      <text x="618" y="56" textAnchor="end" fontSize="12" fontWeight="620">
        Module {device.label}, input {channel.input_number}
      </text>
      <circle cx="100" cy="210" r="42" fill="var(--sheet)" stroke="var(--petrol)" strokeWidth="4" />
      <text
        x="100"
        y="215"
        fontSize="15"
        fontWeight="680"
        textAnchor="middle"
        style={{ fill: 'var(--petrol)' }}
      >
        {channel.name}
      </text>
      <Core d="M100 168V142H358" colour="brown" />
      <Core d="M100 252V278H358" colour="blue" />
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
    </svg>
  )
}
