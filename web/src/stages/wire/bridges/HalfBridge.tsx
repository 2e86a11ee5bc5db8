import type { Channel } from '../../../api/client'
import { figure } from '../../../ui/format'
import { coreColour } from '../drawing'
import { useMarks } from '../marks'
import { ChannelName, Core, PlugPins, Resistor, Value } from '../parts'
import { bridgeOf, CoreWords, Corners, leadOhm, LiveMeter, OnThePart, setTo } from './shared'

/** Arms 1 and 2 are grids that share E+; the amplifier completes arms 3 and 4. */
export function HalfBridge({ channel }: { channel: Channel }) {
  const grid = { top: 142, pad: 242, first: 52, second: 128, bottom: 342 }
  const pin = 372
  const node = { x: 530, top: 98, left: 446, right: 606, bottom: 386 }
  const bad = useMarks().arms
  return (
    <g>
      <OnThePart channel={channel} />
      <ChannelName x={24} y={112} name={channel.name} />
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
