import { useQuery } from '@tanstack/react-query'

import { changeChannel } from '../../api/actions'
import type { Channel } from '../../api/client'
import { driversQuery } from '../../api/queries'
import { inputKind } from '../../kinds/inputs'
import type { Offers } from '../../kinds/inputs/input'

const NOTHING: Offers = { excitations_v: [], ranges_mv_v: [], carriers_hz: [] }

interface Props {
  channel: Channel
  driver: string
  disabled: boolean
}

export function WiringForm({ channel, driver, disabled }: Props) {
  const drivers = useQuery(driversQuery).data
  const { Form } = inputKind(channel)
  return (
    <Form
      channel={channel}
      offers={drivers?.find((d) => d.name === driver) ?? NOTHING}
      disabled={disabled}
      rewire={(wiring) => changeChannel(channel.id, { wiring })}
      set={(conditioning) => changeChannel(channel.id, { conditioning })}
    />
  )
}
