import { useState } from 'react'

import { changeChannel } from '../../api/actions'
import type { Channel } from '../../api/client'
import { changePreferences } from '../../api/preferences'
import { useMay } from '../../api/queries'
import { EditableNumber } from '../../ui/Editable'
import { Fact, Segments } from '../../ui/Fact'
import { attempt } from '../../ui/notices'
import { unitsOf } from '../../ui/units'
import { OwnUnit } from './OwnUnit'

/** In which unit readings are shown: to everybody, or to oneself only. */
export function UnitAndDecimals({ channel: c }: { channel: Channel }) {
  const mayShow = useMay('wire channels')
  const mayDefine = useMay('change scaling')
  const [whose, choose] = useState<'all' | 'me'>(c.shared || !mayShow ? 'me' : 'all')
  const shared = c.shared ?? { unit: c.unit, decimals: c.decimals }
  const shown = whose === 'me' ? { unit: c.unit, decimals: c.decimals } : shared
  // Another unit brings decimals that suit it.
  const save = (change: { unit: string } | { decimals: number }): Promise<unknown> =>
    whose === 'all'
      ? changeChannel(c.id, change)
      : changePreferences({ display: { [c.quantity]: { unit: shown.unit, ...change } } })
  return (
    <>
      <Fact name="Shown to">
        <Segments
          label="Whose unit and decimals"
          options={[
            ['all', 'everybody'],
            ['me', 'me'],
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
          onChange={(unit) => void attempt(save({ unit }))}
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
              onClick={() => void attempt(changePreferences({ display: { [c.quantity]: null } }))}
            >
              Show {c.shared.unit} as everybody sees it
            </button>
          )}
        </p>
      )}
    </>
  )
}
