import { balance } from '../../api/actions'
import type { Channel } from '../../api/client'
import type { Waiting } from '../../frame/yokeFirst'
import { Button } from '../../ui/Button'
import { Fact, Section } from '../../ui/Fact'
import { figure } from '../../ui/format'

interface Props {
  channel: Channel
  setupId: number
  waits?: Waiting
}

/** What the amplifier takes off a bridge before it converts its output; of other inputs nothing. */
export function BalancePanel({ channel: c, setupId, waits }: Props) {
  if (!('balance' in c.conditioning) || !c.has_shunt) return null
  const taken = c.conditioning.balance
  return (
    <Section title="Balance in the amplifier">
      <Fact name="Taken off">
        <span className="figure">{figure(taken * 1e3, 4)}</span> mV/V
      </Fact>
      <p className="py-1 text-small leading-4 text-soft">
        For a bridge that stands far from zero, so that a narrow range does. Zero it anew then.
      </p>
      <div className="flex flex-wrap gap-2">
        <Button {...waits} onClick={() => void balance(setupId, [c.id], true)}>
          Balance {c.name}
        </Button>
        {taken !== 0 && (
          <Button {...waits} onClick={() => void balance(setupId, [c.id], false)}>
            Take it off
          </Button>
        )}
      </div>
    </Section>
  )
}
