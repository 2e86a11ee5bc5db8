/** Looking at signals before a test: checks that are kept, and the spectrum of a channel now. */

import { queryOptions } from '@tanstack/react-query'

import { client, got, type Schemas } from './client'
import { queryClient } from './queries'

export type SignalCheck = Schemas['SignalCheckOut']
export type CheckedSignal = Schemas['CheckedSignal']
export type SpectrumNow = Schemas['SpectrumOut']

const of = (setup_id: number) => ({ params: { path: { setup_id } } })

/** Those of a setup, the newest first. */
export const signalChecksQuery = (setup: number) =>
  queryOptions({
    queryKey: ['signal checks', setup],
    queryFn: () => got(client.GET('/api/setups/{setup_id}/signal-checks', of(setup))),
  })

export const signalCheckQuery = (check_id: number | undefined) =>
  queryOptions({
    queryKey: ['signal check', check_id],
    queryFn: () =>
      got(
        client.GET('/api/signal-checks/{check_id}', { params: { path: { check_id: check_id! } } }),
      ),
    enabled: check_id !== undefined,
    staleTime: Infinity,
  })

/** Look at all channels for 2 s; what was found is kept, and given. */
export async function checkSignals(setup: number, mains_hz: number): Promise<SignalCheck> {
  const body = { mains_hz }
  const found = await got(
    client.POST('/api/setups/{setup_id}/signal-checks', { ...of(setup), body }),
  )
  queryClient.setQueryData(signalCheckQuery(found.id).queryKey, found)
  await queryClient.invalidateQueries({ queryKey: ['signal checks', setup] })
  return found
}

export const spectrumNow = (setup: number, channel: string): Promise<SpectrumNow> =>
  got(
    client.POST('/api/setups/{setup_id}/spectrum', {
      ...of(setup),
      body: { channel, mains_hz: 50 },
    }),
  )
