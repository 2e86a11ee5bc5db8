import type { Channel } from '../../api/client'
import { changeChannel, changeScaling, scaleByCertificate, zero } from '../../api/actions'
import { useMay } from '../../api/queries'
import { fullScale } from '../../readable'
import { Button } from '../../ui/Button'
import { EditableNumber } from '../../ui/Editable'
import { Fact } from '../../ui/Fact'
import { significant } from '../../ui/format'
import { signalUnit, spanFromSi } from '../../ui/units'
import { Choice } from '../../ui/Choice'
import type { Waiting } from '../../frame/yokeFirst'
import { asReading, perSignal } from './figures'
import { Toggle } from '../../ui/Toggle'
import { ZeroHistory } from './ZeroHistory'
import { attempt } from '../../ui/notices'
import { kindsFor, scalingKind } from '../../kinds/scalings'
import { shownValue, unitOf, withField } from '../../kinds/scalings/scaling'

interface Props {
  channel: Channel
  setupId: number
  zeroWaits?: Waiting
  /** Of what can be calibrated against known loads. */
  onCalibrate?: () => void
}

/** What the scaling comes to: its full scale, and what one unit gives at the input. */
function FullScale({ channel: c }: { channel: Channel }) {
  const signal = signalUnit(c.signal)
  const each = 1 / Math.abs(perSignal(c))
  const volts = 'excitation_v' in c.conditioning ? c.conditioning.excitation_v : null
  if (!c.per_signal || !Number.isFinite(each)) return null
  return (
    <div>
      <Fact name="Full scale">
        <span className="figure">{significant(spanFromSi(fullScale(c), c.unit))}</span> {c.unit}
      </Fact>
      <Fact name={`1 ${c.unit} gives`}>
        <span className="figure">{significant(each)}</span> {signal}
        {volts !== null && signal === 'mV/V' && (
          <span className="text-soft">
            , {significant(each * volts * 1e3)} µV at {volts} V
          </span>
        )}
      </Fact>
      {c.least_bit !== null && (
        <Fact name="Least bit">
          <span className="figure">{significant(asReading(c, c.least_bit))}</span> {c.unit}
        </Fact>
      )}
    </div>
  )
}

/** How mV/V becomes the channel's quantity; each field is saved as it is left. */
export function ScalingPanel({ channel, setupId, zeroWaits, onCalibrate }: Props) {
  const may = useMay('change scaling')
  const mayWire = useMay('wire channels')
  const { kind } = channel.scaling
  const form = scalingKind(kind)
  return (
    <section className="col" aria-label="Scaling">
      <div className="bar">
        <h2>{channel.name}</h2>
        <span className="text-soft">scaling in force</span>
      </div>
      <div className="flex flex-col gap-3 overflow-auto p-4 *:flex-none">
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
        {may && channel.sensor.due_on && (
          <Button size={24} onClick={() => void attempt(scaleByCertificate(channel.id))}>
            Take its certificate's table
          </Button>
        )}
        {form.note && <p className="text-small leading-4 text-soft">{form.note}</p>}
        {channel.scaling_problem && (
          <p role="alert" className="text-small leading-4 text-signal">
            {channel.scaling_problem}
          </p>
        )}
        {channel.scaling_doubt && (
          <p role="status" className="text-small leading-4 text-marking-ink">
            {channel.scaling_doubt}
          </p>
        )}
        <FullScale channel={channel} />
        {!may && <p className="text-small text-soft">Only an engineer changes scaling.</p>}
        {channel.takes_zero && (
          <Button size={36} {...zeroWaits} onClick={() => void zero(setupId, [channel.id])}>
            Zero {channel.name}
          </Button>
        )}
        {channel.takes_zero && channel.per_signal !== 0 && (
          <p className="text-small leading-4 text-soft">
            A zero waits until the reading stays within{' '}
            <span className="figure">{+asReading(channel, channel.most_going).toPrecision(2)}</span>{' '}
            {channel.unit} for half a second, for 4 s at most; then it is refused.
          </p>
        )}
        {channel.takes_zero && (
          <label className="flex min-h-7 items-center justify-between text-small">
            <span className="text-soft">Zero before each run</span>
            <Toggle
              label="Zero before each run"
              on={channel.zero_each_run}
              disabled={!mayWire}
              onChange={(zero_each_run) =>
                void attempt(changeChannel(channel.id, { zero_each_run }))
              }
            />
          </label>
        )}
        {channel.takes_zero && channel.zero_each_run && (
          <label className="flex min-h-7 items-center justify-between text-small">
            <span className="text-soft">By itself, while nothing is loaded</span>
            <Toggle
              label="Zero by itself while nothing is loaded"
              on={channel.zero_by_itself}
              disabled={!mayWire}
              onChange={(zero_by_itself) =>
                void attempt(changeChannel(channel.id, { zero_by_itself }))
              }
            />
          </label>
        )}
        {onCalibrate && (
          <Button size={36} onClick={onCalibrate}>
            Calibrate against loads…
          </Button>
        )}
        <ZeroHistory channel={channel} />
      </div>
    </section>
  )
}
