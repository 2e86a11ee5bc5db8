import { changeChannels, changeScalings } from '../../api/actions'
import type { Channel, Schemas, Setup } from '../../api/client'
import { useMay } from '../../api/queries'
import { scalingKind } from '../../kinds/scalings'
import { shownValue, unitOf, withField } from '../../kinds/scalings/scaling'
import { Button } from '../../ui/Button'
import { EditableNumber } from '../../ui/Editable'
import { attempt } from '../../ui/notices'
import { unitsOf } from '../../ui/units'

interface Props {
  setup: Setup
  channels: Channel[]
  onDone: () => void
}

type Change = Omit<Schemas['ChannelOfMany'], 'id'>

/** What the marked channels have in common, changed at once: one action, undone together. */
export function MarkedBar({ setup, channels, onDone }: Props) {
  const mayShow = useMay('wire channels')
  const mayScale = useMay('change scaling')
  const quantity = common(channels.map((c) => c.quantity))
  const kind = common(channels.map((c) => c.scaling.kind))
  const field = kind ? scalingKind(kind).fields[0] : undefined
  const unit = channels[0]!.unit // of the number that is typed; each channel may be shown in another
  const changed = (given: Change) =>
    changeChannels(
      setup.id,
      channels.map((c) => ({ id: c.id, ...given })),
    )
  const change = (given: Change) => attempt(changed(given))
  const scale = async (value: number) => {
    if (!field) return
    const scalings = channels.map((c) => ({
      id: c.id,
      scaling: withField(field, { ...c, unit }, value),
    }))
    await changeScalings(setup.id, scalings)
  }
  const allZero = channels.every((c) => c.zero_each_run)
  return (
    <div
      role="group"
      aria-label="Marked channels"
      className="flex min-h-9 flex-wrap items-center gap-3 border-b border-rule bg-marking-wash px-4 text-small"
    >
      <b className="font-strong">{channels.length} marked</b>
      {mayShow && quantity && (
        <label className="flex items-center gap-1.5">
          <span className="text-soft">Unit</span>
          <select
            value={common(channels.map((c) => c.shared?.unit ?? c.unit)) ?? ''}
            onChange={(e) => void change({ unit: e.target.value })}
            className="h-6 rounded border border-rule-strong bg-sheet px-1"
          >
            <option value="" disabled>
              several
            </option>
            {unitsOf(quantity).map((u) => (
              <option key={u}>{u}</option>
            ))}
          </select>
        </label>
      )}
      {mayShow && quantity && (
        <div>
          <EditableNumber
            label="Decimals"
            value={common(channels.map((c) => c.shared?.decimals ?? c.decimals))}
            decimals={0}
            onSave={(decimals) => changed({ decimals })}
          />
        </div>
      )}
      {mayScale && field && (
        <div>
          <EditableNumber
            label={field.label}
            unit={unitOf(field, channels[0]!)}
            value={common(channels.map((c) => shownValue(field, { ...c, unit })))}
            decimals={field.decimals}
            onSave={scale}
          />
        </div>
      )}
      {mayShow && (
        <Button size={24} onClick={() => void change({ zero_each_run: !allZero })}>
          {allZero ? 'No zero before each run' : 'Zero before each run'}
        </Button>
      )}
      {!quantity && <span className="text-soft">of several quantities: no unit in common</span>}
      <Button size={24} className="ml-auto" onClick={onDone}>
        Unmark all
      </Button>
    </div>
  )
}

/** The value that all have; null where they differ. */
function common<T>(values: T[]): T | null {
  return values.every((v) => v === values[0]) ? (values[0] ?? null) : null
}
