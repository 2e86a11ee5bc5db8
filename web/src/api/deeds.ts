/** What a person does to a bench or a setup: one function a deed, for buttons, keys and Ctrl K. */

import { attempt, complain, say } from '../ui/notices'
import { client, got, ProblemError, type Schemas } from './client'
import { benchQuery, queryClient, runsQuery, setupQuery } from './queries'

const setupPath = (id: number) => ({ params: { path: { setup_id: id } } })
const benchPath = (id: number) => ({ params: { path: { bench_id: id } } })

function keepBench(bench: Schemas['BenchOut'] | undefined): void {
  if (bench) queryClient.setQueryData(benchQuery(bench.id).queryKey, bench)
}
export function keepSetup(setup: Schemas['SetupOut']): void {
  queryClient.setQueryData(setupQuery(setup.id).queryKey, setup)
}
const reload = (...key: unknown[]) => queryClient.invalidateQueries({ queryKey: key })

export async function takeYoke(benchId: number, fromHolder = false): Promise<void> {
  const options = { params: { path: { bench_id: benchId }, query: { from_holder: fromHolder } } }
  keepBench(await attempt(got(client.POST('/api/benches/{bench_id}/yoke', options))))
}

export async function handOver(benchId: number): Promise<void> {
  keepBench(await attempt(got(client.DELETE('/api/benches/{bench_id}/yoke', benchPath(benchId)))))
}

function report(outcomes: Schemas['Outcome'][], done: string): void {
  const failed = outcomes.filter((o) => o.problem)
  const good = outcomes.length - failed.length
  if (good) say(`${done} ${good} ${good === 1 ? 'channel' : 'channels'}.`)
  for (const o of failed) complain(new ProblemError({ title: o.problem, status: 409 }))
}

export async function zero(setupId: number, channels: number[]): Promise<void> {
  const answer = client.POST('/api/setups/{setup_id}/zero', {
    ...setupPath(setupId),
    body: { channels },
  })
  const outcomes = await attempt(got(answer))
  if (outcomes) report(outcomes, 'Zeroed')
  await reload('setup', setupId)
}

export async function shuntCheck(setupId: number, channels: number[]): Promise<void> {
  const answer = client.POST('/api/setups/{setup_id}/shunt-check', {
    ...setupPath(setupId),
    body: { channels },
  })
  const outcomes = await attempt(got(answer))
  if (outcomes) report(outcomes, 'Shunt checked')
  await reload('setup', setupId)
}

export async function undo(setupId: number, redo = false): Promise<void> {
  const answer = client.POST('/api/setups/{setup_id}/undo', {
    params: { path: { setup_id: setupId }, query: { redo } },
  })
  const done = await attempt(got(answer))
  if (done) say(`${redo ? 'Redone' : 'Undone'}: ${done.action}.`)
  await reload('setup', setupId)
}

export async function startPull(setupId: number): Promise<void> {
  const answer = client.POST('/api/setups/{setup_id}/runs', {
    ...setupPath(setupId),
    body: { pull: true },
  })
  await attempt(got(answer))
  await reload(...runsQuery(setupId).queryKey)
}

export async function stopRun(runId: number): Promise<void> {
  const answer = client.POST('/api/runs/{run_id}/stop', { params: { path: { run_id: runId } } })
  await attempt(got(answer))
  await reload('runs')
}

export async function emergencyStop(benchId: number): Promise<void> {
  await attempt(got(client.POST('/api/benches/{bench_id}/emergency-stop', benchPath(benchId))))
}

export async function returnActuator(benchId: number): Promise<void> {
  await attempt(got(client.POST('/api/benches/{bench_id}/return', benchPath(benchId))))
}

export async function signOut(): Promise<void> {
  await attempt(got(client.DELETE('/api/session')))
  queryClient.clear()
  location.assign('/')
}

/** Change the setup itself. Throws `ProblemError` for the field to show. */
export async function changeSetup(id: number, body: Schemas['SetupChange']): Promise<void> {
  keepSetup(await got(client.PATCH('/api/setups/{setup_id}', { ...setupPath(id), body })))
}

export async function changeChannel(id: number, body: Schemas['ChannelChange']): Promise<void> {
  const path = { params: { path: { channel_id: id } } }
  keepSetup(await got(client.PATCH('/api/channels/{channel_id}', { ...path, body })))
}

export async function changeScaling(id: number, body: Schemas['ScalingChange']): Promise<void> {
  const path = { params: { path: { channel_id: id } } }
  keepSetup(await got(client.PATCH('/api/channels/{channel_id}/scaling', { ...path, body })))
}
