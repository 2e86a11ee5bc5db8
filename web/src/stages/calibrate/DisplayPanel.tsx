import type { Channel } from '../../api/client'
import { changeChannel, changeScaling, shuntCheck } from '../../api/actions'
import { useMay } from '../../api/queries'
import { Button } from '../../ui/Button'
import { EditableNumber } from '../../ui/Editable'
import { Fact, Section, Segments } from '../../ui/Fact'
import { clock, figure } from '../../ui/format'
import { unitsOf } from '../../ui/units'
import type { Waiting } from '../../frame/yokeFirst'
import { attempt } from '../../ui/notices'
import { shuntError } from './figures'
import { ReadingUncertainty } from './ReadingUncertainty'

interface Props {
  channel: Channel
  setupId: number
  shuntWaits?: Waiting
}

export function DisplayPanel({ channel: c, setupId, shuntWaits }: Props) {
  const mayShow = useMay('wire channels')
  const mayScale = useMay('change scaling')
  const error = shuntError(c)
  return (
    <section className="col overflow-auto" aria-label="Shunt check and display">
      {c.has_shunt && (
        <Section title="Shunt check">
          <Fact name="Due">
            <span className="figure">{figure(c.shunt_expected_mv_v, 4)}</span> mV/V
          </Fact>
          <Fact name="Read">
            <span className="figure">{figure(c.shunt_measured_mv_v, 4)}</span> mV/V
          </Fact>
          <Fact name="Error">
            <b
              className={`figure font-strong ${error === null ? '' : Math.abs(error) > 1 ? 'text-marking-ink' : 'text-moss'}`}
            >
              {figure(error, 2)}
            </b>{' '}
            %
          </Fact>
          <p className="py-1.5 text-small leading-4 text-soft">
            {c.shunt_at
              ? `Checked ${clock(c.shunt_at)} with the amplifier's own 100 kΩ across arm 2.`
              : "Not checked yet: puts the amplifier's own 100 kΩ across arm 2."}
          </p>
          <Button {...shuntWaits} onClick={() => void shuntCheck(setupId, [c.id])}>
            Shunt check {c.name}
          </Button>
        </Section>
      )}
      <ReadingUncertainty key={c.id} channel={c} />
      <Section title="Display and sign">
        <Fact name="Unit">
          <Segments
            label="Unit"
            options={unitsOf(c.quantity).map((u) => [u, u] as const)}
            value={c.unit}
            disabled={!mayShow}
            onChange={(unit) => void attempt(changeChannel(c.id, { unit }))}
          />
        </Fact>
        <EditableNumber
          label="Decimals"
          value={c.decimals}
          decimals={0}
          disabled={!mayShow}
          onSave={(decimals) => changeChannel(c.id, { decimals })}
        />
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
