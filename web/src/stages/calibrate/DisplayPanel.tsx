import { useState } from 'react'

import type { Channel } from '../../api/client'
import { changeChannel, changeScaling } from '../../api/actions'
import { changePreferences } from '../../api/preferences'
import { useMay } from '../../api/queries'
import { EditableNumber } from '../../ui/Editable'
import { Fact, Section, Segments } from '../../ui/Fact'
import type { Shown } from '../../ui/display'
import { spanFromSi, unitsOf } from '../../ui/units'
import type { Waiting } from '../../frame/yokeFirst'
import { attempt } from '../../ui/notices'
import { ReadingUncertainty } from './ReadingUncertainty'
import { ShuntPanel } from './ShuntPanel'

interface Props {
  channel: Channel
  setupId: number
  shuntWaits?: Waiting
}

export function DisplayPanel({ channel: c, setupId, shuntWaits }: Props) {
  const mayScale = useMay('change scaling')
  return (
    <section className="col overflow-auto" aria-label="Shunt check and display">
      {c.has_shunt && (
        <ShuntPanel key={`shunt-${c.id}`} channel={c} setupId={setupId} waits={shuntWaits} />
      )}
      <ReadingUncertainty key={`uncertainty-${c.id}`} channel={c} />
      <Section title="Display and sign">
        <UnitAndDecimals key={`${c.id}-${!c.shared}`} channel={c} />
        <Fact name="Sign">
          <Segments
            label="Sign"
            options={polarities(c)}
            value={c.polarity}
            disabled={!mayScale}
            onChange={(polarity) => void attempt(changeScaling(c.id, { polarity }))}
          />
        </Fact>
      </Section>
    </section>
  )
}

/** In which unit readings are shown: to everybody, or to oneself only. */
function UnitAndDecimals({ channel: c }: { channel: Channel }) {
  const mayShow = useMay('wire channels')
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

type Polarity = Channel['polarity']

/** Of a bridge that bends, swapped cores and a quantity that counts the other way differ. */
const polarities = (c: Channel): [Polarity, string][] => [
  ['as wired', 'As wired'],
  ...(c.sign.swap || c.polarity === 'cores swapped'
    ? ([['cores swapped', 'Cores swapped']] as [Polarity, string][])
    : []),
  ['turned', 'Turned'],
]
