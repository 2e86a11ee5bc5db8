import { figure } from '../../../ui/format'
import { coreColour } from '../drawing/coreColour'
import { useMarks } from '../drawing/marks'
import { ChannelName, Core, PlugPins, Resistor, Value } from '../drawing/parts'
import { CoreWords, Corners, leadOhm, LiveMeter, OnThePart, type Bridge } from './shared'

const PINS = { 1: 142, 2: 182, 4: 242, 5: 302, 6: 342 }
const X = 96

/**
 * Arms 1 and 2 are grids in series, their joint is the signal; the other half is the amplifier's.
 * With five cores the excitation counts at the grids.
 */
export function HalfBridge({ channel }: { channel: Bridge }) {
  const sensed = channel.wiring.wires >= 5
  const node = { x: 520, top: 98, right: 606, bottom: 386 }
  return (
    <g>
      <OnThePart channel={channel} />
      <Grid arm={1} top={PINS[1]} words={channel.name} />
      <Grid arm={2} top={PINS[4]} words="" />
      <Value x={132} y={198} value={figure(channel.wiring.resistance_ohm, 1)} unit="Ω each" />
      <Cores channel={channel} sensed={sensed} />
      <g fill="var(--copper)" stroke="var(--core-edge)">
        {[PINS[1], PINS[4], PINS[6]].map((y) => (
          <circle key={y} cx={X} cy={y} r="5.5" />
        ))}
      </g>
      <path d="M382 142H470L520 98" fill="none" stroke="var(--ink)" strokeWidth="1.5" />
      <path d="M382 342H470L520 386" fill="none" stroke="var(--ink)" strokeWidth="1.5" />
      <path d="M520 98L606 242L520 386" fill="none" stroke="var(--ink)" strokeWidth="1.5" />
      <path d="M382 242H606" stroke="var(--ink)" strokeWidth="1.5" />
      <Resistor x={563} y={170} angle={59} />
      <Resistor x={563} y={314} angle={-59} />
      <text x="520" y="366" fontSize="12" textAnchor="end" style={{ fill: 'var(--ink-soft)' }}>
        half bridge inside
      </text>
      {sensed && <Sense />}
      <LiveMeter channel={channel} x={402} y={242} />
      <Corners node={node} excitation={channel.conditioning.excitation_v} signal="S+" />
    </g>
  )
}

/** One grid of 100 high, from its upper to its lower pad. */
function Grid({ arm, top, words }: { arm: number; top: number; words: string }) {
  const bad = useMarks().arms.includes(arm)
  return (
    <g transform={`translate(0,${top - 142})`}>
      <path
        d="M96 142V152H70V222H78V160H86V222H94V160H102V222H110V160H118V234H96V242"
        fill="none"
        stroke={bad ? 'var(--signal)' : 'var(--petrol)'}
        strokeWidth="3.400"
        strokeLinejoin="round"
      />
      <ChannelName x={132} y={180} name={words} />
      <text x="132" y="216" fontSize="12" style={{ fill: 'var(--ink-soft)' }}>
        arm {arm}
      </text>
    </g>
  )
}

function Cores({ channel, sensed }: { channel: Bridge; sensed: boolean }) {
  const ohm = leadOhm(channel)
  const words = (pin: number, what: string) => `${coreColour(channel, pin)}, ${what}`
  const shown = (Object.entries(PINS) as [string, number][])
    .map(([pin, y]) => [Number(pin), y] as const)
    .filter(([pin]) => sensed || ![2, 5].includes(pin))
  const from: Record<number, number> = {
    1: PINS[1],
    2: PINS[1],
    4: PINS[4],
    5: PINS[6],
    6: PINS[6],
  }
  return (
    <g>
      {shown.map(([pin, y]) => (
        <Core
          key={pin}
          d={from[pin] === y ? `M${X} ${y}H358` : `M${X} ${from[pin]}L216 ${y}H358`}
          colour={coreColour(channel, pin)}
          pin={pin}
          y={y}
        />
      ))}
      <CoreWords y={PINS[1]} words={words(1, 'E+')} ohm={ohm} />
      <CoreWords y={PINS[4]} words={words(4, 'joint')} note="no current" />
      <CoreWords y={PINS[6]} words={words(6, 'E−')} ohm={ohm} />
      {sensed && <CoreWords y={PINS[2]} words={words(2, 'sense +')} />}
      {sensed && <CoreWords y={PINS[5]} words={words(5, 'sense −')} />}
      <PlugPins x={372} pins={shown.map(([pin, y]) => [pin, y, true])} />
    </g>
  )
}

function Sense() {
  return (
    <g>
      <path
        d={`M382 ${PINS[2]}H440V142M382 ${PINS[5]}H440V342`}
        fill="none"
        stroke="var(--ink-soft)"
        strokeDasharray="3 3"
      />
      <text x="448" y={PINS[2] + 4} fontSize="12" style={{ fill: 'var(--ink-soft)' }}>
        sense: holds E
      </text>
      <text x="448" y={PINS[5] + 4} fontSize="12" style={{ fill: 'var(--ink-soft)' }}>
        at the grids
      </text>
    </g>
  )
}
