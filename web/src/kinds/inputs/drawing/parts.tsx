/** Parts of the wiring drawing. */

import { useMarks } from './marks'

const COLOURS: Record<string, string> = {
  brown: 'var(--core-brown)',
  white: 'var(--core-white)',
  green: 'var(--core-green)',
  yellow: 'var(--core-yellow)',
  grey: 'var(--core-grey)',
  blue: 'var(--core-blue)',
  red: 'var(--core-red)',
  black: 'var(--core-black)',
  pink: 'var(--core-pink)',
  violet: 'var(--core-violet)',
  orange: 'var(--core-orange)',
}
export const CORE_COLOURS = Object.keys(COLOURS)

export const coreFill = (colour: string): string => COLOURS[colour] ?? 'var(--core-grey)'

interface CoreProps {
  d: string
  colour: string
  pin: number
  /** Where its way through the cable lies. */
  y: number
}

/** A core of the cable in its real colour, with an edge so that white shows on paper. */
export function Core({ d, colour, pin, y }: CoreProps) {
  const broken = useMarks().broken.includes(pin)
  return (
    <g fill="none">
      <path d={d} stroke="var(--core-edge)" strokeWidth="7" />
      <path d={d} stroke={coreFill(colour)} strokeWidth="5" />
      {broken && <Break x={271} y={y} />}
    </g>
  )
}

/** Two torn ends under a glass. */
function Break({ x, y }: { x: number; y: number }) {
  return (
    <g transform={`translate(${x},${y})`} role="img" aria-label="broken">
      <circle r="14" fill="var(--signal-wash)" stroke="var(--signal)" strokeWidth="1.6" />
      <path
        d="M-14 0H-7M-9 -7L-4 -3.500L-8 0L-4 3.500L-9 7M14 0H7M9 -7L4 -3.500L8 0L4 3.500L9 7"
        stroke="var(--signal)"
        strokeWidth="1.8"
        strokeLinejoin="round"
      />
    </g>
  )
}

export function Resistor({ x, y, angle }: { x: number; y: number; angle: number }) {
  return (
    <rect
      x="-21"
      y="-7"
      width="42"
      height="14"
      transform={`translate(${x},${y}) rotate(${angle})`}
      fill="var(--paper)"
      stroke="var(--ink)"
      strokeWidth="1.5"
    />
  )
}

/** What supplies the sensor, at the right of the device's panel. */
export function Supply({ volts, unit = 'V' }: { volts: string; unit?: string }) {
  return (
    <g fontSize="12" textAnchor="middle">
      <circle cx="594" cy="210" r="24" fill="var(--sheet)" stroke="var(--ink)" strokeWidth="1.5" />
      <text x="594" y="207" className="n">
        {volts}
      </text>
      <text x="594" y="221">
        {unit}
      </text>
    </g>
  )
}

export function Value(props: {
  x: number
  y: number
  value: string
  unit: string
  anchor?: 'start' | 'middle' | 'end'
}) {
  return (
    <text x={props.x} y={props.y} fontSize="12" textAnchor={props.anchor}>
      <tspan className="n">{props.value}</tspan> {props.unit}
    </text>
  )
}

/** The plug with its numbered pins; those in use are filled. */
export function PlugPins({ x, pins }: { x: number; pins: (readonly [number, number, boolean])[] }) {
  const bad = useMarks().pins
  const ys = pins.map((p) => p[1])
  const top = Math.min(...ys) - 30
  return (
    <g>
      <rect
        x={x - 18}
        y={top}
        width="36"
        height={Math.max(...ys) + 30 - top}
        rx="5"
        fill="var(--sheet)"
        stroke="var(--ink)"
        strokeWidth="1.2"
      />
      <text x={x} y={top - 8} fontSize="12" textAnchor="middle" style={{ fill: 'var(--ink-soft)' }}>
        plug
      </text>
      {pins.map(([number, y, used]) => (
        <g key={number}>
          <circle
            cx={x}
            cy={y}
            r="10.5"
            fill={bad.includes(number) ? 'var(--signal)' : used ? 'var(--ink)' : 'var(--sheet)'}
            stroke={used ? 'none' : 'var(--rule-strong)'}
          />
          <text
            x={x}
            y={y + 4.5}
            textAnchor="middle"
            className="n"
            fontSize="13"
            fontWeight="600"
            style={{
              fill: bad.includes(number)
                ? 'var(--on-signal)'
                : used
                  ? 'var(--paper)'
                  : 'var(--ink-soft)',
            }}
          >
            {number}
          </text>
        </g>
      ))}
    </g>
  )
}

/** The meter on the bridge's diagonal with the live reading. */
export function Meter(props: { x: number; y: number; title: string; note: string; bad: boolean }) {
  const tone = props.bad ? 'var(--signal)' : 'var(--ink)'
  const { polarity } = useMarks()
  return (
    <g transform={`translate(${props.x},${props.y})`}>
      <rect
        y="-20"
        width="146"
        height="40"
        rx="3"
        fill={props.bad ? 'var(--signal-wash)' : 'var(--sheet)'}
        stroke={tone}
        strokeWidth="1.4"
      />
      <text
        x="10"
        y="-3"
        fontSize="14"
        fontWeight="620"
        className={props.bad ? '' : 'n'}
        style={{ fill: tone }}
      >
        {props.title}
      </text>
      <text x="10" y="13" fontSize="12" style={{ fill: 'var(--ink-soft)' }}>
        {props.note}
      </text>
      {polarity !== 'as wired' && (
        <text y="36" fontSize="12" fontWeight="620" style={{ fill: 'var(--marking-ink)' }}>
          {polarity}: × −1
        </text>
      )}
    </g>
  )
}

interface WordsProps {
  x: number
  y: number
  words: string
}

/** What a thing in the drawing is. */
export const Caption = ({ x, y, words }: WordsProps) => (
  <text x={x} y={y} fontSize="12" style={{ fill: 'var(--ink-soft)' }}>
    {words}
  </text>
)

/** The channel's name at its sensor. */
export const ChannelName = (props: {
  x: number
  y: number
  name: string
  anchor?: 'start' | 'middle'
}) => (
  <text
    x={props.x}
    y={props.y}
    fontSize="15"
    fontWeight="680"
    textAnchor={props.anchor ?? 'start'}
    style={{ fill: 'var(--petrol)' }}
  >
    {props.name}
  </text>
)
