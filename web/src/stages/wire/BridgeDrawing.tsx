import type { ReactNode } from 'react'

import type { Channel } from '../../api/client'
import { useReading } from '../../live/LiveProvider'
import { figure } from '../../ui/format'
import { fromSi } from '../../ui/units'
import { coreColour, type DrawingProps } from './drawing'
import { useMarks } from './marks'
import { Core, Meter, PlugPins, Resistor, Value } from './parts'
import { Sheet } from './Sheet'

/** The bridge as it is wired: sensor, cores in their colours, plug, and what the amplifier adds. */
export function BridgeDrawing({ channel, device }: DrawingProps) {
  const { circuit } = bridgeOf(channel)
  const Drawing = DRAWINGS[circuit] ?? FullBridge
  return (
    <Sheet channel={channel} device={device} make="Amplifier" height={500}>
      <Drawing channel={channel} />
    </Sheet>
  )
}

type Spec<F extends 'wiring' | 'conditioning'> = Extract<Channel[F], { kind: 'bridge' }>

/** This drawing is only asked for bridges. */
export const bridgeOf = (c: Channel) => c.wiring as Spec<'wiring'>
const setTo = (c: Channel) => c.conditioning as Spec<'conditioning'>

const leadOhm = (channel: Channel) =>
  bridgeOf(channel).lead_length_m * bridgeOf(channel).lead_ohm_per_m

function LiveMeter({ channel, x, y }: { channel: Channel; x: number; y: number }) {
  const reading = useReading(channel.key)
  return (
    <Meter
      x={x}
      y={y}
      bad={reading?.clipped ?? false}
      title={
        reading?.clipped ? 'Clipped' : `${figure(reading && fromSi(reading.raw, 'mV/V'), 4)} mV/V`
      }
      note={
        reading?.clipped
          ? `beyond ±${setTo(channel).range_mv_v} mV/V`
          : `range ±${setTo(channel).range_mv_v} mV/V`
      }
    />
  )
}

function Cable({ channel, top, bottom }: { channel: Channel; top: number; bottom: number }) {
  const y = bottom + 40
  return (
    <g>
      <rect
        x="222"
        y={top}
        width="112"
        height={bottom - top}
        rx="10"
        fill="none"
        stroke="var(--ink-soft)"
        strokeDasharray="5 4"
      />
      <text x="224" y={top - 8} fontSize="12" style={{ fill: 'var(--ink-soft)' }}>
        screened cable
      </text>
      <path
        d={`M222 ${y - 10}v15M334 ${y - 10}v15M222 ${y}H250M306 ${y}H334`}
        stroke="var(--ink-soft)"
      />
      <Value
        x={278}
        y={y + 4}
        value={figure(bridgeOf(channel).lead_length_m, 2)}
        unit="m"
        anchor="middle"
      />
    </g>
  )
}

/** The part that the grids lie on, and the cable from there. */
function OnThePart({ channel }: { channel: Channel }) {
  return (
    <>
      <rect x="14" y="76" width="176" height="364" fill="var(--well)" stroke="var(--rule-strong)" />
      <text x="18" y="66" fontSize="12" style={{ fill: 'var(--ink-soft)' }}>
        on the part
      </text>
      <Cable channel={channel} top={108} bottom={370} />
    </>
  )
}

const DRAWINGS: Record<string, (props: { channel: Channel }) => ReactNode> = {
  quarter: QuarterBridge,
  half_bending: HalfBridge,
  half_poisson: HalfBridge,
}

/** Arm 1 is the grid; the amplifier completes arms 2, 3 and 4. */
function QuarterBridge({ channel }: { channel: Channel }) {
  const three = bridgeOf(channel).wires > 2
  const grid = { x: 96, top: 142, pad: 242, bottom: 342 }
  const pin = 372
  const node = { x: 520, top: 98, right: 606, bottom: 386 }
  const completion = channel.completion_ohm ?? 0
  const half = 'M520 98L606 242L520 386'
  const bad = useMarks().arms
  return (
    <g>
      <OnThePart channel={channel} />
      <rect
        x="62"
        y="144"
        width="62"
        height="96"
        rx="4"
        fill="var(--marking-wash)"
        stroke="var(--marking)"
      />
      <path
        d="M96 142V152H70V222H78V160H86V222H94V160H102V222H110V160H118V234H96V242"
        fill="none"
        stroke={bad.includes(1) ? 'var(--signal)' : 'var(--petrol)'}
        strokeWidth="3.400"
        strokeLinejoin="round"
      />
      <text x="132" y="180" fontSize="15" fontWeight="680" style={{ fill: 'var(--petrol)' }}>
        {channel.name}
      </text>
      <Value x={132} y={198} value={figure(bridgeOf(channel).resistance_ohm, 1)} unit="Ω" />
      <text x="132" y="214" fontSize="12" style={{ fill: 'var(--ink-soft)' }}>
        arm 1
      </text>
      <Core d={`M${grid.x} ${grid.top}H358`} colour={coreColour(channel, 1)} pin={1} y={grid.top} />
      {three && (
        <Core
          d={`M${grid.x} ${grid.pad}H358`}
          colour={coreColour(channel, 4)}
          pin={4}
          y={grid.pad}
        />
      )}
      <Core
        d={`M${grid.x} ${grid.pad}V${grid.bottom}H358`}
        colour={coreColour(channel, 5)}
        pin={5}
        y={grid.bottom}
      />
      <CoreWords y={grid.top} words={`${coreColour(channel, 1)}, E+`} ohm={leadOhm(channel)} />
      {three && (
        <CoreWords y={grid.pad} words={`${coreColour(channel, 4)}, S−`} note="no current" />
      )}
      <CoreWords y={grid.bottom} words={coreColour(channel, 5)} ohm={leadOhm(channel)} />
      <g fill="var(--copper)" stroke="var(--core-edge)">
        <circle cx={grid.x} cy={grid.top} r="5.5" />
        <circle cx={grid.x} cy={grid.pad} r="5.5" />
      </g>
      <PlugPins
        x={pin}
        pins={[
          [1, 142, true],
          [4, 242, three],
          [5, 342, true],
        ]}
      />
      {!three && <path d="M420 342V242" stroke="var(--ink)" strokeWidth="1.5" />}
      <path d="M382 142H470L520 98" fill="none" stroke="var(--petrol)" strokeWidth="5" />
      <path d="M382 342H470L520 386" fill="none" stroke="var(--ink)" strokeWidth="1.5" />
      <path d={half} fill="none" stroke="var(--ink)" strokeWidth="1.5" />
      <path d={`M${three ? 382 : 420} 242H606`} stroke="var(--ink)" strokeWidth="1.5" />
      <Resistor x={563} y={170} angle={59} />
      <Resistor x={563} y={314} angle={-59} />
      <Resistor x={446} y={342} angle={0} />
      <Value x={446} y={366} value={figure(completion, 2)} unit="Ω" anchor="middle" />
      <text x="446" y="381" fontSize="12" textAnchor="middle" style={{ fill: 'var(--ink-soft)' }}>
        completion, arm 4
      </text>
      <Value x={540} y={150} value="1000.0" unit="Ω" anchor="end" />
      <Value x={540} y={338} value="1000.0" unit="Ω" anchor="end" />
      <LiveMeter channel={channel} x={402} y={242} />
      <Corners node={node} excitation={setTo(channel).excitation_v} signal="S+" />
    </g>
  )
}

/** Arms 1 and 2 are grids that share E+; the amplifier completes arms 3 and 4. */
function HalfBridge({ channel }: { channel: Channel }) {
  const grid = { top: 142, pad: 242, first: 52, second: 128, bottom: 342 }
  const pin = 372
  const node = { x: 530, top: 98, left: 446, right: 606, bottom: 386 }
  const bad = useMarks().arms
  return (
    <g>
      <OnThePart channel={channel} />
      <text x="24" y="112" fontSize="15" fontWeight="680" style={{ fill: 'var(--petrol)' }}>
        {channel.name}
      </text>
      <Value x={24} y={130} value={figure(bridgeOf(channel).resistance_ohm, 1)} unit="Ω each" />
      {[[grid.first, 2] as const, [grid.second, 1] as const].map(([x, arm]) => (
        <g key={arm} transform={`translate(${x - 96},0)`}>
          <path
            d="M96 142V152H76V222H84V160H92V222H100V160H108V222H116V234H96V242"
            fill="none"
            stroke={bad.includes(arm) ? 'var(--signal)' : 'var(--petrol)'}
            strokeWidth="3.400"
            strokeLinejoin="round"
          />
          <text x="104" y="258" fontSize="12" style={{ fill: 'var(--ink-soft)' }}>
            arm {arm}
          </text>
        </g>
      ))}
      <Core
        d={`M${grid.first} ${grid.top}H358`}
        colour={coreColour(channel, 1)}
        pin={1}
        y={grid.top}
      />
      <Core
        d={`M${grid.second} ${grid.pad}H358`}
        colour={coreColour(channel, 4)}
        pin={4}
        y={grid.pad}
      />
      <Core
        d={`M${grid.first} ${grid.pad}V${grid.bottom}H358`}
        colour={coreColour(channel, 3)}
        pin={3}
        y={grid.bottom}
      />
      <CoreWords y={grid.top} words={`${coreColour(channel, 1)}, E+`} ohm={leadOhm(channel)} />
      <CoreWords y={grid.pad} words={`${coreColour(channel, 4)}, S−`} ohm={leadOhm(channel)} />
      <CoreWords y={grid.bottom} words={`${coreColour(channel, 3)}, S+`} ohm={leadOhm(channel)} />
      <PlugPins
        x={pin}
        pins={[
          [1, 142, true],
          [4, 242, true],
          [3, 342, true],
        ]}
      />
      <path
        d={`M382 142H${node.x}V${node.top}M382 242H${node.right}M382 342H404V428H622V242H${node.right}`}
        fill="none"
        stroke="var(--ink)"
        strokeWidth="1.5"
      />
      <path
        d={`M${node.left} 242L${node.x} ${node.bottom}L${node.right} 242`}
        fill="none"
        stroke="var(--ink)"
        strokeWidth="1.5"
      />
      <Resistor x={488} y={314} angle={60} />
      <Resistor x={568} y={314} angle={-62} />
      <text x="530" y="300" fontSize="12" textAnchor="middle" style={{ fill: 'var(--ink-soft)' }}>
        completion
      </text>
      <text x="466" y="318" fontSize="12" textAnchor="end" style={{ fill: 'var(--ink-soft)' }}>
        arm 4
      </text>
      <text x="588" y="330" fontSize="12" textAnchor="start" style={{ fill: 'var(--ink-soft)' }}>
        3
      </text>
      <LiveMeter channel={channel} x={420} y={242} />
      <Corners node={node} excitation={setTo(channel).excitation_v} signal="S+" />
    </g>
  )
}

function CoreWords(props: { y: number; words: string; ohm?: number; note?: string }) {
  return (
    <g>
      <text x="228" y={props.y - 9} fontSize="12">
        {props.words}
      </text>
      {props.ohm !== undefined ? (
        <Value x={328} y={props.y - 9} value={figure(props.ohm, 2)} unit="Ω" anchor="end" />
      ) : (
        <text
          x="328"
          y={props.y + 18}
          fontSize="12"
          textAnchor="end"
          style={{ fill: 'var(--ink-soft)' }}
        >
          {props.note}
        </text>
      )}
    </g>
  )
}

function Corners(props: {
  node: { x: number; top: number; right: number; bottom: number }
  excitation: number
  signal: string
}) {
  const { node } = props
  return (
    <g>
      <g fill="var(--ink)">
        <circle cx={node.x} cy={node.top} r="4" />
        <circle cx={node.x} cy={node.bottom} r="4" />
        <circle cx={node.right} cy={(node.top + node.bottom) / 2} r="4" />
      </g>
      <text x={node.x} y={node.top - 10} fontSize="12" textAnchor="middle">
        E+ <tspan className="n">{figure(props.excitation, 3)}</tspan> V
      </text>
      <text x={node.x} y={node.bottom + 20} fontSize="12" textAnchor="middle">
        E− <tspan className="n">0.000</tspan> V
      </text>
      <text
        x={node.right + 8}
        y={(node.top + node.bottom) / 2 - 8}
        fontSize="12"
        textAnchor="middle"
      >
        {props.signal}
      </text>
    </g>
  )
}

/** All four arms are in the sensor; with six wires the excitation counts at the sensor. */
function FullBridge({ channel }: { channel: Channel }) {
  const pins = [96, 152, 208, 264, 320, 376] as const
  const sensed = bridgeOf(channel).wires === 6
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
      <text x="18" y="50" fontSize="12" style={{ fill: 'var(--ink-soft)' }}>
        {channel.sensor.name}
      </text>
      <Cable channel={channel} top={74} bottom={398} />
      {paths.map(([pin, d]) => (
        <Core key={pin} d={d} colour={coreColour(channel, pin)} pin={pin} y={pins[pin - 1]!} />
      ))}
      <Arms />
      <text
        x="120"
        y="232"
        fontSize="15"
        fontWeight="680"
        textAnchor="middle"
        style={{ fill: 'var(--petrol)' }}
      >
        {channel.name}
      </text>
      <Value
        x={120}
        y={250}
        value={figure(bridgeOf(channel).resistance_ohm, 1)}
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
      <Supply pins={pins} sensed={sensed} volts={setTo(channel).excitation_v} />
      <path d="M382 208H402M382 264H402" stroke="var(--ink)" strokeWidth="1.5" />
      <path d="M402 208V264" stroke="var(--ink)" strokeWidth="1.5" />
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
  2: 'M120 152L204 236',
  3: 'M204 236L120 320',
  4: 'M120 320L36 236',
}

/** Four strained arms, numbered clockwise from the upper left. */
function Arms() {
  const bad = useMarks().arms
  return (
    <g>
      <path
        d="M120 152L204 236L120 320L36 236Z"
        fill="none"
        stroke="var(--petrol)"
        strokeWidth="9"
      />
      {bad.map((arm) => (
        <path key={arm} d={SIDES[arm]} stroke="var(--signal)" strokeWidth="9" />
      ))}
      {(
        [
          [62, 180, 1],
          [178, 180, 2],
          [178, 300, 3],
          [62, 300, 4],
        ] as const
      ).map(([x, y, arm]) => (
        <text key={arm} x={x} y={y} fontSize="12" className="n" textAnchor="middle">
          {arm}
        </text>
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
