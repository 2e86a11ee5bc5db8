import { figure } from '../../../ui/format'
import { coreColour } from '../drawing/coreColour'
import { useMarks } from '../drawing/marks'
import { ChannelName, Core, PlugPins, Resistor, Value } from '../drawing/parts'
import { CoreWords, Corners, leadOhm, LiveMeter, OnThePart, type Bridge } from './shared'

/** Arm 1 is the grid; the amplifier completes arms 2, 3 and 4. */
export function QuarterBridge({ channel }: { channel: Bridge }) {
  const three = channel.wiring.wires > 2
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
      <ChannelName x={132} y={180} name={channel.name} />
      <Value x={132} y={198} value={figure(channel.wiring.resistance_ohm, 1)} unit="Ω" />
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
        completion, arm 2
      </text>
      <Value x={540} y={150} value="1000.0" unit="Ω" anchor="end" />
      <Value x={540} y={338} value="1000.0" unit="Ω" anchor="end" />
      <LiveMeter channel={channel} x={402} y={242} />
      <Corners node={node} excitation={channel.conditioning.excitation_v} signal="S+" />
    </g>
  )
}
