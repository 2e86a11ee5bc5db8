import { useReading } from '../../../live/LiveProvider'
import { figure } from '../../../ui/format'
import { fromSi } from '../../../ui/units'
import { Meter, Value } from '../drawing/parts'
import type { BridgeConditioning, Wired } from '../input'

/** What drawings of bridges have in common. */

export type Bridge = Wired<'bridge', BridgeConditioning>

export const leadOhm = (channel: Bridge) =>
  channel.wiring.lead_length_m * channel.wiring.lead_ohm_per_m

export function LiveMeter({ channel, x, y }: { channel: Bridge; x: number; y: number }) {
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
          ? `beyond ±${channel.conditioning.range_mv_v} mV/V`
          : `range ±${channel.conditioning.range_mv_v} mV/V`
      }
    />
  )
}

export function Cable({ channel, top, bottom }: { channel: Bridge; top: number; bottom: number }) {
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
        value={figure(channel.wiring.lead_length_m, 2)}
        unit="m"
        anchor="middle"
      />
    </g>
  )
}

/** The part that the grids lie on, and the cable from there. */
export function OnThePart({ channel }: { channel: Bridge }) {
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

export function CoreWords(props: { y: number; words: string; ohm?: number; note?: string }) {
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

export function Corners(props: {
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
