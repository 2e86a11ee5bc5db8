import type { Channel, Schemas } from '../../api/client'
import { changeScaling, zero } from '../../api/deeds'
import { useMay } from '../../api/queries'
import { Button } from '../../ui/Button'
import { EditableNumber } from '../../ui/Editable'
import { Segments } from '../../ui/Fact'
import { fromSi, toSi } from '../../ui/format'
import { attempt } from '../../ui/notices'

type Kind = 'strain' | 'rated_output' | 'two_points'
type Field = Exclude<keyof Schemas['ScalingChange'], 'scaling_kind' | 'reversed'>

interface Line {
  field: Field
  label: string
  unit: (c: Channel) => string
  /** Stored in SI, shown in the channel's unit. */
  si?: boolean
  decimals: number
}

const mvv = () => 'mV/V'
const LINES: Record<Kind, Line[]> = {
  strain: [{ field: 'gauge_factor', label: 'Gauge factor', unit: () => '', decimals: 3 }],
  rated_output: [
    { field: 'rated_output_mv_v', label: 'Rated output', unit: mvv, decimals: 4 },
    { field: 'capacity', label: 'Capacity', unit: (c) => c.unit, si: true, decimals: 3 },
  ],
  two_points: [
    { field: 'point_1_mv_v', label: 'Point 1, signal', unit: mvv, decimals: 4 },
    { field: 'point_1_value', label: 'Point 1, value', unit: (c) => c.unit, si: true, decimals: 4 },
    { field: 'point_2_mv_v', label: 'Point 2, signal', unit: mvv, decimals: 4 },
    { field: 'point_2_value', label: 'Point 2, value', unit: (c) => c.unit, si: true, decimals: 4 },
  ],
}

const kinds = (c: Channel): readonly (readonly [Kind, string])[] =>
  c.quantity === 'strain'
    ? [
        ['strain', 'Gauge factor'],
        ['two_points', 'Two points'],
      ]
    : [
        ['rated_output', 'Rated output'],
        ['two_points', 'Two points'],
      ]

interface Props {
  channel: Channel
  setupId: number
  zeroWaits?: string
}

/** How mV/V becomes the channel's quantity; each field is saved as it is left. */
export function ScalingPanel({ channel, setupId, zeroWaits }: Props) {
  const may = useMay('change scaling')
  const kind = channel.scaling_kind as Kind
  const save = (field: Field, si: boolean) => (value: number) =>
    changeScaling(channel.id, { [field]: si ? toSi(value, channel.unit) : value })
  return (
    <section className="col" aria-label="Scaling">
      <div className="bar">
        <h2>{channel.name}</h2>
        <span className="text-soft">scaling in force</span>
      </div>
      <div className="flex flex-col gap-3 overflow-auto p-4">
        <Segments
          label="Scaling by"
          options={kinds(channel)}
          value={kind}
          disabled={!may}
          onChange={(to) => void attempt(changeScaling(channel.id, seed(channel, to)))}
        />
        <div>
          {LINES[kind].map((line) => {
            const value = channel[line.field]
            return (
              <EditableNumber
                key={line.field}
                label={line.label}
                unit={line.unit(channel)}
                decimals={line.decimals}
                disabled={!may}
                value={value !== null && line.si ? fromSi(value, channel.unit) : value}
                onSave={save(line.field, !!line.si)}
              />
            )
          })}
        </div>
        {kind === 'strain' && channel.arrangement === 'quarter' && (
          <p className="text-[12px] leading-4 text-soft">
            Quarter bridge: its non-linearity is solved exactly, not linearised.
          </p>
        )}
        {!may && <p className="text-[12px] text-soft">Only an engineer changes scaling.</p>}
        <Button size={36} waits={zeroWaits} onClick={() => void zero(setupId, [channel.id])}>
          Zero {channel.name}
        </Button>
      </div>
    </section>
  )
}

/** Going to two points begins with the line that is in force, so that nothing jumps. */
function seed(c: Channel, to: Kind): Schemas['ScalingChange'] {
  if (to !== 'two_points' || c.point_1_mv_v !== null) return { scaling_kind: to }
  return {
    scaling_kind: to,
    point_1_mv_v: 0,
    point_1_value: 0,
    point_2_mv_v: 1,
    point_2_value: c.per_mv_v,
  }
}
