import { useReading } from '../../../live/LiveProvider'
import { figure } from '../../../ui/format'
import { fromSi } from '../../../ui/units'
import { coreColour } from '../drawing/coreColour'
import type { BridgeConditioning, DrawingProps } from '../input'
import { Caption, ChannelName, Core, Meter, PlugPins, Resistor, Supply } from '../drawing/parts'
import { Sheet } from '../drawing/Sheet'

type Props = DrawingProps<'potentiometer' | 'inductive_half', BridgeConditioning> & {
  /** Coils about a core, in place of a wiper. */
  coils: boolean
}

/** What lies between excitation + and −, and its tap: a wiper, or the middle of two coils. */
export function DividerDrawing({ channel, device, coils }: Props) {
  const reading = useReading(channel.key)
  const { wiring, conditioning: set } = channel
  const colour = (pin: number) => coreColour(channel, pin)
  // Where the tap stands, from the end at excitation + (above) to that at excitation −.
  const share = Math.min(0.5, Math.max(-0.5, reading?.raw ?? 0))
  const tap = coils ? 210 : 210 + share * 120
  return (
    <Sheet channel={channel} device={device} make="Amplifier" height={420}>
      <rect
        x="30"
        y="112"
        width="160"
        height="196"
        rx="3"
        fill="var(--well)"
        stroke="var(--rule-strong)"
      />
      <Caption x={34} y={102} words={channel.sensor.name} />
      {coils ? (
        <Coils y={210 + Math.max(-30, Math.min(30, share * 300))} />
      ) : (
        <>
          <rect
            x="96"
            y="142"
            width="18"
            height="136"
            fill="var(--paper)"
            stroke="var(--petrol)"
            strokeWidth="3"
          />
          <path d={`M148 ${tap}L118 ${tap}`} stroke="var(--petrol)" strokeWidth="3" />
          <path d={`M116 ${tap}l9 -5v10z`} fill="var(--petrol)" />
        </>
      )}
      <ChannelName x={34} y={330} name={channel.name} />
      <text x="34" y="348" fontSize="12">
        <tspan className="n">{figure(wiring.resistance_ohm, 0)}</tspan> Ω
      </text>
      <Core d="M105 142V128H358" colour={colour(1)} pin={1} y={128} />
      <Core d={`M148 ${tap}V210H358`} colour={colour(4)} pin={4} y={210} />
      <Core d="M105 278V292H358" colour={colour(6)} pin={6} y={292} />
      <text x="228" y="119" fontSize="12">{`${colour(1)}, E+`}</text>
      <text x="228" y="201" fontSize="12">{`${colour(4)}, S−`}</text>
      <text x="228" y="283" fontSize="12">{`${colour(6)}, E−`}</text>
      <PlugPins
        x={372}
        pins={[
          [1, 128, true],
          [4, 210, true],
          [6, 292, true],
        ]}
      />
      <path
        d="M382 128H594V186M594 234V292H382"
        fill="none"
        stroke="var(--ink)"
        strokeWidth="1.5"
      />
      <Supply volts={figure(set.excitation_v, 1)} unit={set.carrier_hz ? 'V, AC' : 'V'} />
      <Resistor x={490} y={128} angle={0} />
      <Resistor x={490} y={292} angle={0} />
      <text x={490} y={112} fontSize="12" textAnchor="middle" style={{ fill: 'var(--ink-soft)' }}>
        half bridge inside
      </text>
      <Meter
        x={402}
        y={210}
        bad={reading?.clipped ?? false}
        title={
          reading?.clipped ? 'Clipped' : `${figure(reading && fromSi(reading.raw, 'mV/V'), 2)} mV/V`
        }
        note={set.carrier_hz ? `carrier ${figure(set.carrier_hz / 1000, 1)} kHz` : 'direct current'}
      />
    </Sheet>
  )
}

/** Two coils about a core that stands where it stands. */
function Coils({ y }: { y: number }) {
  const loops = (from: number) =>
    Array.from({ length: 5 }, (_, i) => `M105 ${from + i * 13}a9 6.500 0 0 1 0 13`).join('')
  return (
    <g fill="none" stroke="var(--petrol)" strokeWidth="3">
      <path d={loops(142) + loops(213)} />
      <path d="M105 207V213M105 210H148" />
      <rect x="80" y={y - 34} width="10" height="68" fill="var(--petrol)" stroke="none" />
    </g>
  )
}
