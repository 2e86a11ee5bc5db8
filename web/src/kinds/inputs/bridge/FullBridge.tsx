import { figure } from '../../../ui/format'
import { coreColour } from '../drawing/coreColour'
import { useMarks } from '../drawing/marks'
import { Caption, ChannelName, Core, PlugPins, Resistor, Value } from '../drawing/parts'
import { Cable, LiveMeter, type Bridge } from './shared'

/**
 * All four arms are in the sensor, or two opposite ones that the amplifier completes; with six
 * wires the excitation counts at the sensor.
 */
export function FullBridge({ channel }: { channel: Bridge }) {
  const pins = [96, 152, 208, 264, 320, 376] as const
  const sensed = channel.wiring.wires >= 6
  const opposite = channel.wiring.circuit === 'half_opposite'
  const paths: [number, string][] = [
    [6, 'M120 320V376H358'],
    [4, 'M36 236V348H206V264H358'],
    ...(sensed ? ([[5, 'M120 320H358']] as [number, string][]) : []),
    ...(sensed ? ([[2, 'M120 152H358']] as [number, string][]) : []),
    [3, 'M204 236V208H358'],
    [1, 'M120 152V96H358'],
  ]
  return (
    <g>
      <rect
        x="14"
        y="60"
        width="200"
        height="350"
        rx="3"
        fill="var(--well)"
        stroke="var(--rule-strong)"
      />
      <Caption x={18} y={50} words={channel.sensor.name} />
      <Cable channel={channel} top={74} bottom={398} />
      {paths.map(([pin, d]) => (
        <Core key={pin} d={d} colour={coreColour(channel, pin)} pin={pin} y={pins[pin - 1]!} />
      ))}
      <Arms arms={opposite ? channel.active_arms : [1, 2, 3, 4]} />
      <ChannelName x={120} y={232} name={channel.name} anchor="middle" />
      <Value
        x={120}
        y={250}
        value={figure(channel.wiring.resistance_ohm, 1)}
        unit="Ω"
        anchor="middle"
      />
      {pins.map((y, i) => {
        const core = channel.sensor.cores.find((c) => c.pin === i + 1)
        return (
          <text key={y} x="228" y={y - 8} fontSize="12">
            {core ? `${core.colour}, ${SHORT[core.function] ?? core.function}` : ''}
          </text>
        )
      })}
      <PlugPins x={372} pins={pins.map((y, i) => [i + 1, y, sensed || ![1, 4].includes(i)])} />
      <Supply pins={pins} sensed={sensed} volts={channel.conditioning.excitation_v} />
      <path d="M382 208H402M382 264H402" stroke="var(--ink)" strokeWidth="1.5" />
      <path d="M402 208V264" stroke="var(--ink)" strokeWidth="1.5" />
      {opposite && <Completion pins={pins} ohm={channel.completion_ohm ?? 0} />}
      <LiveMeter channel={channel} x={402} y={236} />
    </g>
  )
}

const SHORT: Record<string, string> = {
  'excitation +': 'E+',
  'excitation −': 'E−',
  'signal +': 'S+',
  'signal −': 'S−',
}

const SIDES: Record<number, string> = {
  1: 'M36 236L120 152',
  2: 'M36 236L120 320',
  3: 'M120 320L204 236',
  4: 'M204 236L120 152',
}

const NUMBERS: Record<number, [number, number]> = {
  1: [62, 180],
  2: [62, 300],
  3: [178, 300],
  4: [178, 180],
}

/** The arms that are strained, numbered counter-clockwise from the upper left. */
function Arms({ arms }: { arms: readonly number[] }) {
  const bad = useMarks().arms
  return (
    <g>
      {arms.map((arm) => (
        <g key={arm}>
          <path
            d={SIDES[arm]}
            stroke={bad.includes(arm) ? 'var(--signal)' : 'var(--petrol)'}
            strokeWidth="9"
            strokeLinecap="round"
          />
          <text
            x={NUMBERS[arm]![0]}
            y={NUMBERS[arm]![1]}
            fontSize="12"
            className="n"
            textAnchor="middle"
          >
            {arm}
          </text>
        </g>
      ))}
      <g fill="var(--copper)" stroke="var(--core-edge)">
        {(
          [
            [120, 152],
            [204, 236],
            [120, 320],
            [36, 236],
          ] as const
        ).map(([x, y]) => (
          <circle key={`${x}-${y}`} cx={x} cy={y} r="5.5" />
        ))}
      </g>
    </g>
  )
}

/** Arms 2 and 4 in the amplifier, where only opposite ones are on the part. */
function Completion({ pins, ohm }: { pins: readonly number[]; ohm: number }) {
  const [p1, , p3, p4, , p6] = pins as [number, number, number, number, number, number]
  const arms = [
    [4, p1, p3],
    [2, p4, p6],
  ] as const
  return (
    <g>
      {arms.map(([arm, top, bottom]) => (
        <g key={arm}>
          <path
            d={arm === 4 ? `M540 ${top}V${bottom}H402` : `M402 ${top}H540V${bottom}`}
            fill="none"
            stroke="var(--ink)"
            strokeWidth="1.5"
          />
          <Resistor x={540} y={(top + bottom) / 2} angle={90} />
          <Value x={526} y={(top + bottom) / 2} value={figure(ohm, 2)} unit="Ω" anchor="end" />
          <text
            x={526}
            y={(top + bottom) / 2 + 15}
            fontSize="12"
            textAnchor="end"
            style={{ fill: 'var(--ink-soft)' }}
          >
            completion, arm {arm}
          </text>
        </g>
      ))}
    </g>
  )
}

function Supply(props: { pins: readonly number[]; sensed: boolean; volts: number }) {
  const [p1, p2, , , p5, p6] = props.pins as [number, number, number, number, number, number]
  return (
    <g>
      <path d={`M382 ${p1}H580V${p6}H382`} fill="none" stroke="var(--ink)" strokeWidth="1.5" />
      <circle cx="580" cy="236" r="22" fill="var(--sheet)" stroke="var(--ink)" strokeWidth="1.5" />
      <text x="580" y="233" fontSize="12" textAnchor="middle" className="n">
        {figure(props.volts, 1)}
      </text>
      <text x="580" y="247" fontSize="12" textAnchor="middle">
        V
      </text>
      {props.sensed && (
        <>
          <path
            d={`M382 ${p2}H470V${p1}M382 ${p5}H470V${p6}`}
            fill="none"
            stroke="var(--ink-soft)"
            strokeDasharray="3 3"
          />
          <text x="478" y={p2 + 4} fontSize="12" style={{ fill: 'var(--ink-soft)' }}>
            sense: holds E
          </text>
          <text x="478" y={p5 + 4} fontSize="12" style={{ fill: 'var(--ink-soft)' }}>
            at the sensor
          </text>
        </>
      )}
      <text x="400" y={p1 - 8} fontSize="12">
        E+
      </text>
      <text x="400" y={p6 + 18} fontSize="12">
        E−
      </text>
    </g>
  )
}
