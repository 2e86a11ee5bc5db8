import type { Channel } from '../../api/client'
import { changeScaling, zero } from '../../api/actions'
import { useMay } from '../../api/queries'
import { Button } from '../../ui/Button'
import { EditableNumber } from '../../ui/Editable'
import { Choice } from '../../ui/Choice'
import type { Waiting } from '../../frame/yokeFirst'
import { PolynomialForm } from './PolynomialForm'
import { FORMS, kindsFor, shownValue, unitOf, withField } from './scalings'
import { TableForm } from './TableForm'

interface Props {
  channel: Channel
  setupId: number
  zeroWaits?: Waiting
}

/** How mV/V becomes the channel's quantity; each field is saved as it is left. */
export function ScalingPanel({ channel, setupId, zeroWaits }: Props) {
  const may = useMay('change scaling')
  const { kind } = channel.scaling
  const form = FORMS[kind]
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
          onChoose={(to) => changeScaling(channel.id, { scaling: FORMS[to].seed(channel) })}
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
        {channel.scaling.kind === 'table' && (
          <TableForm channel={channel} scaling={channel.scaling} disabled={!may} />
        )}
        {channel.scaling.kind === 'polynomial' && (
          <PolynomialForm channel={channel} scaling={channel.scaling} disabled={!may} />
        )}
        {kind === 'gauge' && (
          <p className="text-small leading-4 text-soft">
            The bridge and its leads are solved exactly, not linearised.
          </p>
        )}
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
      </div>
    </section>
  )
}
