import type { Run } from '../../api/client'
import type { Readable } from '../../readable'

/** The channels that a run was recorded with. */
export const readableInRun = (run: Run): Readable[] =>
  run.channels.map((c) => ({
    key: c.key,
    name: c.name,
    quantity: c.quantity,
    unit: c.unit,
    decimals: c.decimals,
    recorded: true,
  }))
