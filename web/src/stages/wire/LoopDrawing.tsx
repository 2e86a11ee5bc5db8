import { useReading } from '../../live/LiveProvider'
import { figure } from '../../ui/format'
import { fromSi } from '../../ui/units'
import { coreColour, type DrawingProps } from './drawing'
import { Core, Meter, PlugPins, Resistor, Value } from './parts'
import { Sheet } from './Sheet'

const SPAN = '% of span'

/** The loop as the current goes: supply, transmitter, back through the precision resistor. */
export function LoopDrawing({ channel, device }: DrawingProps) {
  const reading = useReading(channel.key)
  const ohm = channel.wiring.kind === 'loop' ? channel.wiring.resistor_ohm : 0
  const current = reading && ohm ? reading.raw / ohm : undefined
  const dead = !!reading && !Number.isFinite(reading.value) // beyond what a sound loop gives
  const colour = (pin: number) => coreColour(channel, pin)
  return (
    <Sheet channel={channel} device={device} make="Module" height={420}>
      <rect
        x="30"
        y="112"
        width="140"
        height="196"
        rx="3"
        fill="var(--well)"
        stroke="var(--rule-strong)"
      />
      <text x="34" y="102" fontSize="12" style={{ fill: 'var(--ink-soft)' }}>
        {channel.sensor.name}
      </text>
      <circle cx="100" cy="210" r="42" fill="var(--sheet)" stroke="var(--petrol)" strokeWidth="4" />
      <text
        x="100"
        y="207"
        fontSize="15"
        fontWeight="680"
        textAnchor="middle"
        style={{ fill: 'var(--petrol)' }}
      >
        {channel.name}
      </text>
      <text x="100" y="226" fontSize="12" textAnchor="middle">
        4-20 mA
      </text>
      <Core d="M100 168V142H358" colour={colour(1)} pin={1} y={142} />
      <Core d="M100 252V278H358" colour={colour(2)} pin={2} y={278} />
      <text x="228" y="133" fontSize="12">{`${colour(1)}, supply +`}</text>
      <text x="228" y="269" fontSize="12">{`${colour(2)}, loop back`}</text>
      <PlugPins
        x={372}
        pins={[
          [1, 142, true],
          [2, 278, true],
        ]}
      />
      <path
        d="M382 142H594V186M594 234V330H430V278H382"
        fill="none"
        stroke="var(--ink)"
        strokeWidth="1.5"
      />
      <circle cx="594" cy="210" r="24" fill="var(--sheet)" stroke="var(--ink)" strokeWidth="1.5" />
      <text x="594" y="207" fontSize="12" textAnchor="middle" className="n">
        24
      </text>
      <text x="594" y="221" fontSize="12" textAnchor="middle">
        V
      </text>
      <Resistor x={430} y={304} angle={90} />
      <Value x={444} y={308} value={figure(ohm, 2)} unit="Ω" />
      <Meter
        x={402}
        y={210}
        bad={dead}
        title={`${figure(current === undefined ? undefined : current * 1e3, 3)} mA`}
        note={
          dead
            ? 'no loop current: broken, or a fault'
            : `${figure(current === undefined ? undefined : fromSi(current, SPAN), 1)} ${SPAN}`
        }
      />
    </Sheet>
  )
}
