import { client, got, type Schemas } from './client'
import { keepSetup } from './actions'
import { queryClient } from './queries'

/** What the plugs say of the sensors in them, and what follows for a setup. */

export type Plug = Schemas['PlugOut']

const at = (setup: number) => ({ params: { path: { setup_id: setup } } })

export const readPlugs = (setup: number): Promise<Plug[]> =>
  got(client.POST('/api/setups/{setup_id}/plugs', at(setup))).then((found) => found.plugs)

/** Channels go to other inputs with their sensors: one action. */
export async function moveChannels(setup: number, moves: Schemas['Move'][]): Promise<true> {
  await keepSetup(
    await got(client.POST('/api/setups/{setup_id}/moves', { ...at(setup), body: { moves } })),
  )
  return true
}

/** A sensor that only its plug knows, into the library. */
export async function addFromSheet(memory: string): Promise<Schemas['InstrumentOut']> {
  const made = await got(client.POST('/api/sensors/from-sheet', { body: { memory } }))
  await queryClient.invalidateQueries({ queryKey: ['library'] })
  await queryClient.invalidateQueries({ queryKey: ['sensors'] })
  return made
}

/** Write a channel's sensor into the memory of its plug. */
export async function writeSheet(channel: number): Promise<true> {
  const path = { params: { path: { channel_id: channel } } }
  await got(client.POST('/api/channels/{channel_id}/sheet', path))
  return true
}
