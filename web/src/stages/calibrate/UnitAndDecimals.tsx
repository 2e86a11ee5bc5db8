import { useState } from 'react'

import { changeChannel } from '../../api/actions'
import type { Channel } from '../../api/client'
import { changePreferences } from '../../api/preferences'
import { useMay } from '../../api/queries'
import type { Shown } from '../../ui/display'
import { EditableNumber } from '../../ui/Editable'
import { Fact, Segments } from '../../ui/Fact'
import { attempt } from '../../ui/notices'
import { spanFromSi, unitsOf } from '../../ui/units'
import { OwnUnit } from './OwnUnit'

/** In which unit readings are shown: to everybody, or to oneself only. */
export function UnitAndDecimals({ channel: c }: { channel: Channel }) {
  const mayShow = useMay('wire channels')
  const mayDefine = useMay('change scaling')
  const [whose, choose] = useState<'all' | 'me'>(c.shared || !mayShow ? 'me' : 'all')
  const shared = c.shared ?? { unit: c.unit, decimals: c.decimals }
  const shown = whose === 'me' ? { unit: c.unit, decimals: c.decimals } : shared
  const save = (change: Partial<Shown>): Promise<unknown> =>
    whose === 'all'
      ? changeChannel(c.id, change)
      : changePreferences({ display: { [c.quantity]: { ...shown, ...change } }, columns: {} })
  return (
    <>
      <Fact name="Shown so">
        <Segments
          label="Whose unit and decimals"
          options={[
            ['all', 'to everybody'],
            ['me', 'to me'],
          ]}
          value={whose}
          onChange={choose}
        />
      </Fact>
      <Fact name="Unit">
        <Segments
          label="Unit"
          options={unitsOf(c.quantity).map((u) => [u, u] as const)}
          value={shown.unit}
          disabled={whose === 'all' && !mayShow}
          onChange={(unit) =>
            void attempt(save(whose === 'all' ? { unit } : decimalsFor(shown, unit)))
          }
        />
      </Fact>
      <EditableNumber
        label="Decimals"
        value={shown.decimals}
        decimals={0}
        disabled={whose === 'all' && !mayShow}
        onSave={(decimals) => save({ decimals })}
      />
      {mayDefine && (
        <OwnUnit key={c.quantity} quantity={c.quantity} usual={unitsOf(c.quantity)[0]!} />
      )}
      {whose === 'me' && (
        <p className="py-1 text-small leading-4 text-soft">
          Of all channels of {c.quantity}, on your screens only.{' '}
          {c.shared && (
            <button
              type="button"
              className="border-b border-dotted border-soft"
              onClick={() =>
                void attempt(changePreferences({ display: { [c.quantity]: null }, columns: {} }))
              }
            >
              Show {c.shared.unit} as everybody sees it
            </button>
          )}
        </p>
      )}
    </>
  )
}

/** Another unit with decimals that show about the same digits. */
function decimalsFor(shown: Shown, unit: string): Partial<Shown> {
  const places = Math.round(Math.log10(Math.abs(spanFromSi(1, shown.unit) / spanFromSi(1, unit))))
  return { unit, decimals: Math.min(6, Math.max(0, shown.decimals + places)) }
}
