import { useReading } from '../../../live/LiveProvider'
import { figure } from '../../../ui/format'
import { fromSi } from '../../../ui/units'
import { coreColour } from '../drawing/coreColour'
import type { DrawingProps } from '../input'
import {
  Caption,
  ChannelName,
  Core,
  Meter,
  PlugPins,
  Resistor,
  Supply,
  Value,
} from '../drawing/parts'
import { Sheet } from '../drawing/Sheet'

const SPAN = '% of span'

/** The loop as the current goes: supply, transmitter, back through the precision resistor. */
export function LoopDrawing({ channel, device }: DrawingProps<'loop'>) {
  const reading = useReading(channel.key)
  const { resistor_ohm: ohm, wires } = channel.wiring
  const current = reading && ohm ? reading.raw / ohm : undefined
  const three = wires === 3
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
      <Caption x={34} y={102} words={channel.sensor.name} />
      <circle cx="100" cy="210" r="42" fill="var(--sheet)" stroke="var(--petrol)" strokeWidth="4" />
      <ChannelName x={100} y={207} name={channel.name} anchor="middle" />
      <text x="100" y="226" fontSize="12" textAnchor="middle">
        4-20 mA
      </text>
      <Core d="M100 168V142H358" colour={colour(1)} pin={1} y={142} />
      <Core d="M100 252V278H358" colour={colour(2)} pin={2} y={278} />
      <text x="228" y="133" fontSize="12">{`${colour(1)}, supply +`}</text>
      <text x="228" y="269" fontSize="12">{`${colour(2)}, loop back`}</text>
      {three && (
        <>
          <Core d="M72 242V344H358" colour={colour(3)} pin={3} y={344} />
          <text x="228" y="335" fontSize="12">{`${colour(3)}, supply −`}</text>
        </>
      )}
      <PlugPins
        x={372}
        pins={[[1, 142, true], [2, 278, true], ...(three ? ([[3, 344, true]] as const) : [])]}
      />
      {three && <path d="M382 344H430V330" fill="none" stroke="var(--ink)" strokeWidth="1.5" />}
      <path
        d="M382 142H594V186M594 234V330H430V278H382"
        fill="none"
        stroke="var(--ink)"
        strokeWidth="1.5"
      />
      <Supply volts="24" />
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
