import type { Channel } from '../../api/client'
import { changeScaling, zero } from '../../api/actions'
import { useMay } from '../../api/queries'
import { Button } from '../../ui/Button'
import { EditableNumber } from '../../ui/Editable'
import { Choice } from '../../ui/Choice'
import type { Waiting } from '../../frame/yokeFirst'
import { ZeroHistory } from './ZeroHistory'
import { kindsFor, scalingKind } from '../../kinds/scalings'
import { shownValue, unitOf, withField } from '../../kinds/scalings/scaling'

interface Props {
  channel: Channel
  setupId: number
  zeroWaits?: Waiting
  /** Of what can be calibrated against known loads. */
  onCalibrate?: () => void
}

/** How mV/V becomes the channel's quantity; each field is saved as it is left. */
export function ScalingPanel({ channel, setupId, zeroWaits, onCalibrate }: Props) {
  const may = useMay('change scaling')
  const { kind } = channel.scaling
  const form = scalingKind(kind)
  return (
    <section className="col" aria-label="Scaling">
      <div className="bar">
        <h2>{channel.name}</h2>
        <span className="text-soft">scaling in force</span>
      </div>
      <div className="flex flex-col gap-3 overflow-auto p-4">
        <Choice
          label="Scaling by"
          options={kindsFor(channel)}
          value={kind}
          disabled={!may}
          onChoose={(to) => changeScaling(channel.id, { scaling: scalingKind(to).seed(channel) })}
        />
        <div>
          {form.fields.map((field) => (
            <EditableNumber
              key={field.name}
              label={field.label}
              unit={unitOf(field, channel)}
              decimals={field.decimals}
              disabled={!may}
              value={shownValue(field, channel)}
              onSave={(value) =>
                changeScaling(channel.id, { scaling: withField(field, channel, value) })
              }
            />
          ))}
        </div>
        {form.Form && <form.Form channel={channel} scaling={channel.scaling} disabled={!may} />}
        {form.note && <p className="text-small leading-4 text-soft">{form.note}</p>}
        {channel.scaling_problem && (
          <p role="alert" className="text-small leading-4 text-signal">
            {channel.scaling_problem}
          </p>
        )}
        {!may && <p className="text-small text-soft">Only an engineer changes scaling.</p>}
        {channel.takes_zero && (
          <Button size={36} {...zeroWaits} onClick={() => void zero(setupId, [channel.id])}>
            Zero {channel.name}
          </Button>
        )}
        <ZeroHistory channel={channel} />
        {onCalibrate && (
          <Button size={36} onClick={onCalibrate}>
            Calibrate against loads…
          </Button>
        )}
      </div>
    </section>
  )
}
