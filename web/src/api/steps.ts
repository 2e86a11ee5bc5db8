/** A channel's reading part by part, and what a filter would do. */

import { keepPreviousData, queryOptions } from '@tanstack/react-query'

import { client, got, type Channel, type Schemas } from './client'

export type ChainPart = Schemas['ChainPartOut']
export type FilterShape = Schemas['FilterOut']

const of = (channel_id: number) => ({ params: { path: { channel_id } } })

/** The parts at this moment; asked for again each second while it is shown. */
export const chainQuery = (channel: Channel, now: () => Schemas['ChainIn'] | null) =>
  queryOptions({
    queryKey: ['chain', channel.id, channel.steps, channel.scaling, channel.zero, channel.tare],
    queryFn: async () => {
      const body = now()
      const path = '/api/channels/{channel_id}/chain'
      return body ? got(client.POST(path, { ...of(channel.id), body })) : []
    },
    refetchInterval: 1000,
    placeholderData: keepPreviousData,
  })

export const filterQuery = (channel: Channel, step: Channel['steps'][number], rateHz: number) =>
  queryOptions({
    queryKey: ['filter', channel.id, rateHz, { ...step, on: true }],
    queryFn: () => {
      const path = '/api/channels/{channel_id}/filter'
      return got(client.POST(path, { ...of(channel.id), body: { step } }))
    },
    placeholderData: keepPreviousData,
    retry: false,
    staleTime: Infinity,
  })
