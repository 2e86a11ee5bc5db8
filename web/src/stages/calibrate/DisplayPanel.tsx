import type { Channel } from '../../api/client'
import { changeScaling } from '../../api/actions'
import { useMay } from '../../api/queries'
import { Fact, Section, Segments } from '../../ui/Fact'
import type { Waiting } from '../../frame/yokeFirst'
import { attempt } from '../../ui/notices'
import { BalancePanel } from './BalancePanel'
import { ReadingUncertainty } from './ReadingUncertainty'
import { ShuntPanel } from './ShuntPanel'
import { UnitAndDecimals } from './UnitAndDecimals'

interface Props {
  channel: Channel
  setupId: number
  shuntWaits?: Waiting
  balanceWaits?: Waiting
}

export function DisplayPanel({ channel: c, setupId, shuntWaits, balanceWaits }: Props) {
  const mayScale = useMay('change scaling')
  return (
    <section className="col overflow-auto" aria-label="Shunt check and display">
      {c.has_shunt && (
        <ShuntPanel key={`shunt-${c.id}`} channel={c} setupId={setupId} waits={shuntWaits} />
      )}
      <BalancePanel channel={c} setupId={setupId} waits={balanceWaits} />
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

type Polarity = Channel['polarity']

/** Of a bridge that bends, swapped cores and a quantity that counts the other way differ. */
const polarities = (c: Channel): [Polarity, string][] => [
  ['as wired', 'As wired'],
  ...(c.sign.swap || c.polarity === 'cores swapped'
    ? ([['cores swapped', 'Cores swapped']] as [Polarity, string][])
    : []),
  ['turned', 'Turned'],
]
