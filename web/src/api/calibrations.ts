/** Calibrations against known loads. */

import { queryOptions } from '@tanstack/react-query'

import { client, got, type Channel, type Schemas } from './client'
import { queryClient } from './queries'

export type Calibration = Schemas['CalibrationOut']
export type CalibrationLine = Schemas['CalibrationLine']
export type Evaluation = Schemas['EvaluationOut']
export type Plan = Schemas['Plan']
export type PlanStep = Schemas['StepOut']
export type Loads = Plan['loads']

const of = (calibration_id: number) => ({ params: { path: { calibration_id } } })

export const calibrationsQuery = (setup_id: number) =>
  queryOptions({
    queryKey: ['calibrations', setup_id],
    queryFn: () =>
      got(client.GET('/api/setups/{setup_id}/calibrations', { params: { path: { setup_id } } })),
  })

export const calibrationQuery = (id: number) =>
  queryOptions({
    queryKey: ['calibration', id],
    queryFn: () => got(client.GET('/api/calibrations/{calibration_id}', of(id))),
  })

/** What a reading (SI) is uncertain by, once somebody asks for it. */
export const uncertaintyQuery = (
  channel_id: number,
  body: { reading: number; deviation: number } | null,
) =>
  queryOptions({
    queryKey: ['uncertainty', channel_id, body],
    queryFn: () =>
      got(
        client.POST('/api/channels/{channel_id}/uncertainty', {
          params: { path: { channel_id } },
          body: body!,
        }),
      ),
    enabled: body !== null,
    staleTime: Infinity,
  })

/** U of a channel's reading by its number, of the readings that `now` gives; asked anew all along. */
export const uncertaintiesQuery = (setup_id: number, now: () => Schemas['ReadingIn'][]) =>
  queryOptions({
    queryKey: ['uncertainties', setup_id],
    queryFn: async () => {
      const readings = now()
      if (!readings.length) return new Map<number, Schemas['ExpandedOut']>()
      const url = '/api/setups/{setup_id}/uncertainties'
      const options = { params: { path: { setup_id } }, body: { readings } }
      return new Map((await got(client.POST(url, options))).map((u) => [u.channel, u]))
    },
    refetchInterval: 2000,
  })

/** The zeros of a channel; another list with each new one. */
export const zerosQuery = ({ id: channel_id, zeroed_at }: Channel) =>
  queryOptions({
    queryKey: ['zeros', channel_id, zeroed_at],
    queryFn: () =>
      got(client.GET('/api/channels/{channel_id}/zeros', { params: { path: { channel_id } } })),
  })

/** Keep an answer, and have lists of calibrations look again. */
async function kept(answer: Promise<Calibration>): Promise<Calibration> {
  const found = await answer
  queryClient.setQueryData(calibrationQuery(found.id).queryKey, found)
  await queryClient.invalidateQueries({ queryKey: ['calibrations'] })
  return found
}

export const beginCalibration = (channel_id: number, plan: Plan) =>
  kept(
    got(
      client.POST('/api/channels/{channel_id}/calibrations', {
        params: { path: { channel_id } },
        body: { plan },
      }),
    ),
  )

export const captureStep = (id: number, step: number) =>
  kept(
    got(client.POST('/api/calibrations/{calibration_id}/capture', { ...of(id), body: { step } })),
  )

export const leaveOutStep = (id: number, step: number, reason: string) =>
  kept(
    got(
      client.POST('/api/calibrations/{calibration_id}/leave-out', {
        ...of(id),
        body: { step, reason },
      }),
    ),
  )

export const giveUpCalibration = (id: number) =>
  kept(got(client.POST('/api/calibrations/{calibration_id}/give-up', of(id))))

export async function acceptCalibration(id: number, number: string, due_on: string | null) {
  const body = { number, due_on }
  await kept(got(client.POST('/api/calibrations/{calibration_id}/accept', { ...of(id), body })))
  await queryClient.invalidateQueries({ queryKey: ['setup'] })
}

/** Have its PDF made once more. */
export const printCertificate = (id: number) =>
  kept(got(client.POST('/api/calibrations/{calibration_id}/certificate', of(id))))
