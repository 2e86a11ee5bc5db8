import { changeScaling } from '../../../api/actions'
import { EditableNumber } from '../../../ui/Editable'
import { attempt } from '../../../ui/notices'
import { fromSi, signalUnit, toSi } from '../../../ui/units'
import { coefficientFromSi, coefficientToSi, type PolynomialScaling } from '../points'
import type { FormProps } from '../scaling'

const MAX_COEFFICIENTS = 10

/** Coefficients from the constant upwards, in the units that are shown, and where they hold. */
export function PolynomialForm({ channel, scaling, disabled }: FormProps<'polynomial'>) {
  const signal = signalUnit(channel.signal)
  const { coefficients } = scaling
  const save = (change: Partial<PolynomialScaling>) =>
    changeScaling(channel.id, { scaling: { ...scaling, ...change } })
  const powers = (n: number) => (n === 0 ? '' : n === 1 ? ` per ${signal}` : ` per ${signal}^${n}`)
  return (
    <div>
      {coefficients.map((c, n) => (
        <EditableNumber
          key={n}
          label={`Coefficient ${n}`}
          unit={`${channel.unit}${powers(n)}`}
          decimals={6}
          disabled={disabled}
          value={coefficientFromSi(c, n, signal, channel.unit)}
          onSave={(v) =>
            save({
              coefficients: coefficients.map((old, i) =>
                i === n ? coefficientToSi(v, n, signal, channel.unit) : old,
              ),
            })
          }
        />
      ))}
      {(['lowest', 'highest'] as const).map((end) => (
        <EditableNumber
          key={end}
          label={end === 'lowest' ? 'Holds from' : 'Holds up to'}
          unit={signal}
          decimals={4}
          disabled={disabled}
          value={fromSi(scaling[end], signal)}
          onSave={(v) => save({ [end]: toSi(v, signal) })}
        />
      ))}
      {!disabled && (
        <p className="flex gap-3 border-t border-rule pt-1.5 text-small text-petrol">
          {coefficients.length < MAX_COEFFICIENTS && (
            <button
              type="button"
              className="underline underline-offset-2"
              onClick={() => void attempt(save({ coefficients: [...coefficients, 0] }))}
            >
              One power more
            </button>
          )}
          {coefficients.length > 2 && (
            <button
              type="button"
              className="underline underline-offset-2"
              onClick={() => void attempt(save({ coefficients: coefficients.slice(0, -1) }))}
            >
              One less
            </button>
          )}
        </p>
      )}
    </div>
  )
}
