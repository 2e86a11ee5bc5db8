/** What a person does to a bench or a setup: one function per action, for buttons, keys and Ctrl K. */

import { attempt, complain, say } from '../ui/notices'
import { ask } from '../ui/questions'
import { client, actionsShown, actionsPending, got, ProblemError, type Schemas } from './client'
import { benchQuery, keep, queryClient, setupQuery, learnt, unitsQuery } from './queries'

const setupPath = (id: number) => ({ params: { path: { setup_id: id } } })
const benchPath = (id: number) => ({ params: { path: { bench_id: id } } })

async function keepBench(bench: Schemas['BenchOut'] | undefined): Promise<void> {
  if (bench) await keep(benchQuery(bench.id).queryKey, bench)
}
/** Unless a later version is shown already: somebody else's action was heard of meanwhile. */
export async function keepSetup(setup: Schemas['SetupOut']): Promise<void> {
  const { queryKey } = setupQuery(setup.id)
  const shown = queryClient.getQueryData(queryKey)
  if (!shown || shown.version <= setup.version) await keep(queryKey, learnt(setup))
}
const reload = (...key: unknown[]) => queryClient.invalidateQueries({ queryKey: key })

/** Take the yoke; from somebody else with a reason, which the ledger keeps. */
export async function takeYoke(benchId: number, reason = ''): Promise<void> {
  const options = { ...benchPath(benchId), body: { reason } }
  await keepBench(await attempt(got(client.POST('/api/benches/{bench_id}/yoke', options))))
}

export async function handOver(benchId: number): Promise<void> {
  await keepBench(
    await attempt(got(client.DELETE('/api/benches/{bench_id}/yoke', benchPath(benchId)))),
  )
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

/** The channels that are to be zeroed at rest: of a thermometer there is nothing to take. */
export const toZero = (setup: Schemas['SetupOut']): number[] =>
  setup.channels.filter((c) => c.takes_zero).map((c) => c.id)

/** The channels that a shunt can check. */
export const bridgesOf = (setup: Schemas['SetupOut']): number[] =>
  setup.channels.filter((c) => c.has_shunt).map((c) => c.id)

export async function shuntCheck(setupId: number, channels: number[]): Promise<void> {
  const answer = client.POST('/api/setups/{setup_id}/shunt-check', {
    ...setupPath(setupId),
    body: { channels },
  })
  const outcomes = await attempt(got(answer))
  if (outcomes) report(outcomes, 'Shunt checked')
  await reload('setup', setupId)
}

/** Have the amplifier take off what bridges give at rest, or nothing any more. */
export async function balance(setupId: number, channels: number[], on: boolean): Promise<void> {
  const url = '/api/setups/{setup_id}/balance'
  const answer = client.POST(url, { ...setupPath(setupId), body: { channels, on } })
  const outcomes = await attempt(got(answer))
  if (outcomes) report(outcomes, 'Balanced')
  await reload('setup', setupId)
}

/** Check a channel by a resistor that a person put on. */
export async function externalShuntCheck(
  setupId: number,
  channels: number[],
  resistor: Schemas['ShuntResistor'],
): Promise<void> {
  const url = '/api/setups/{setup_id}/shunt-check/external'
  const answer = client.POST(url, { ...setupPath(setupId), body: { channels, resistor } })
  const outcomes = await attempt(got(answer))
  if (outcomes) report(outcomes, 'Shunt checked')
  await reload('setup', setupId)
}

/** Define a unit for everybody; it never changes. Throws `ProblemError` for the form to show. */
export async function defineUnit(
  name: string,
  quantity: string,
  definition: string,
): Promise<void> {
  await got(client.POST('/api/units', { body: { name, quantity, definition } }))
  await reload(...unitsQuery.queryKey)
  await reload('setup')
}

/** Take what a channel reads now as the signal of a known value (SI). */
export async function capturePoint(id: number, point: 1 | 2, value: number): Promise<void> {
  const url = '/api/channels/{channel_id}/scaling/point'
  const body = { point, value }
  const answer = client.POST(url, { params: { path: { channel_id: id } }, body })
  const setup = await attempt(got(answer))
  if (!setup) return
  await keepSetup(setup)
  say(`Captured point ${point === 1 ? 'A' : 'B'}.`)
}

/** Put a channel's span right by its newest shunt check. */
export async function correctByShunt(channelId: number): Promise<void> {
  const path = { params: { path: { channel_id: channelId } } }
  const url = '/api/channels/{channel_id}/shunt-span'
  const setup = await attempt(got(client.POST(url, path)))
  if (setup) await keepSetup(setup)
}

/** Have the setup's wiring sheet made, as the setup stands now. The wiring sheet of a setup, or of the channel of a key. */
export async function makeSheet(setupId: number, channel: string): Promise<void> {
  const params = { ...setupPath(setupId).params, query: { channel } }
  const sheet = await attempt(got(client.POST('/api/setups/{setup_id}/wiring-sheet', { params })))
  if (sheet) await keep(['sheet', setupId, channel], sheet)
}

/** Bring the settings of an earlier version in force again. */
export async function restoreVersion(setupId: number, number: number): Promise<void> {
  const path = { params: { path: { setup_id: setupId, number } } }
  const url = '/api/setups/{setup_id}/revisions/{number}/restore'
  const setup = await attempt(got(client.POST(url, path)))
  if (!setup) return
  await keepSetup(setup)
  say(`Version ${number} is in force again, as version ${setup.version}.`)
}

/** Have the wiring measured and judged; what was found stands with each channel. */
export async function checkWiring(setupId: number, channels: number[]): Promise<void> {
  const answer = client.POST('/api/setups/{setup_id}/wiring-check', {
    ...setupPath(setupId),
    body: { channels },
  })
  const setup = await attempt(got(answer))
  if (setup) await keepSetup(setup)
}

/** Put an input of a stand-in into a state that it should not be in; '' makes it well. */
export async function pretend(device: number, input: number, faults: string): Promise<void> {
  const path = { params: { path: { device_id: device } } }
  const url = '/api/devices/{device_id}/faults'
  await attempt(got(client.POST(url, { ...path, body: { input, faults } })))
}

export async function undo(setupId: number, redo = false): Promise<void> {
  const answer = client.POST('/api/setups/{setup_id}/undo', {
    params: { path: { setup_id: setupId }, query: { redo } },
  })
  const done = await attempt(got(answer))
  if (done) say(`${redo ? 'Redone' : 'Undone'}: ${done.action}.`)
  await reload('setup', setupId)
}

const asksFirst = (setup: Schemas['SetupOut']): boolean =>
  setup.asked.length > 0 && !setup.preflight.some((g) => g.blocks)

const questions = (setup: Schemas['SetupOut']) =>
  ask(`Before ${setup.next_run_name} begins`, 'Start', setup.asked)

let stops = 0 // that were given; a start that waited while one was is none any more

/** What is started is what the screen shows: its version goes along, and what is open in the
 * preflight list. A change of one's own that is on its way comes first. */
export async function startPull(setup: Schemas['SetupOut'], is_dry = false): Promise<void> {
  const before = stops
  if (actionsPending()) await actionsShown()
  const shown = queryClient.getQueryData(setupQuery(setup.id).queryKey) ?? setup
  const answers = !is_dry && asksFirst(shown) ? await questions(shown) : {}
  if (!answers || stops !== before) return
  const accepted = shown.preflight.filter((g) => !g.blocks).map((g) => g.code)
  const answer = client.POST('/api/setups/{setup_id}/runs', {
    ...setupPath(setup.id),
    body: { version: shown.version, pull: true, is_dry, accepted, answers },
  })
  await attempt(got(answer))
  await reload('runs', setup.id)
}

/** Stop what is recorded, or is about to be. */
export async function stopBench(benchId: number): Promise<void> {
  stops += 1
  await attempt(got(client.POST('/api/benches/{bench_id}/stop', benchPath(benchId))))
  await reload('runs')
}

/** Have the run that is recorded pause, go on, hold, skip a leg or end gently. */
export async function commandRun(
  run_id: number,
  command: Schemas['RunCommand']['command'],
): Promise<void> {
  const path = { params: { path: { run_id } } }
  await attempt(got(client.POST('/api/runs/{run_id}/commands', { ...path, body: { command } })))
}

/** Name this instant of the run that is recorded. */
export async function markRun(run_id: number, text: string): Promise<boolean> {
  const path = { params: { path: { run_id } } }
  const done = await attempt(
    got(client.POST('/api/runs/{run_id}/markers', { ...path, body: { text } })).then(() => true),
  )
  return done ?? false
}

/** Take a run out of all lists; whether that was done. */
export async function discardRun(run_id: number, reason: string): Promise<boolean> {
  const path = { params: { path: { run_id } } }
  const answer = client.POST('/api/runs/{run_id}/discard', { ...path, body: { reason } })
  const done = await attempt(got(answer).then(() => true))
  await reload('runs', 'setup')
  return done ?? false
}

export async function restoreRun(run_id: number): Promise<void> {
  await attempt(got(client.POST('/api/runs/{run_id}/restore', { params: { path: { run_id } } })))
  await reload('runs', 'setup')
}

let starting = false

/** One key for both: it starts only what is at rest, whatever the screen showed a second ago. */
export async function startOrStop(
  setup: Schemas['SetupOut'],
  busy: boolean,
  isDry = false,
): Promise<void> {
  if (busy || starting) return stopBench(setup.bench_id)
  starting = true
  try {
    await startPull(setup, isDry)
  } finally {
    starting = false
  }
}

/** Whether the actuator stands away from home, so that nothing can begin. */
export const isAway = (setup: Schemas['SetupOut']): boolean =>
  setup.preflight.some((g) => g.code === 'actuator_not_home')

/** Home again, and the next specimen under its proposed name: then F8 starts it. */
export async function returnForNext(setup: Schemas['SetupOut']): Promise<void> {
  await returnActuator(setup.bench_id)
  if (setup.next_specimen) await attempt(changeSetup(setup.id, { specimen: setup.next_specimen }))
}

/** Lowest and highest begin anew on every screen; of all channels if none are named. */
export async function resetPeaks(benchId: number, channels: string[]): Promise<void> {
  const answer = client.POST('/api/benches/{bench_id}/reset-peaks', {
    ...benchPath(benchId),
    body: { channels },
  })
  await attempt(got(answer))
}

/** From a page that shows no bench: the benches that this person drives, or else all. */
export async function emergencyStopAll(): Promise<void> {
  stops += 1
  await attempt(got(client.POST('/api/emergency-stop')))
}

export async function changeRate(setupId: number, device: number, rate: number): Promise<void> {
  const path = { params: { path: { setup_id: setupId, device_id: device } } }
  const body = { rate_hz: rate }
  const url = '/api/setups/{setup_id}/devices/{device_id}'
  await keepSetup(await got(client.PATCH(url, { ...path, body })))
}

export async function emergencyStop(benchId: number): Promise<void> {
  stops += 1
  await attempt(got(client.POST('/api/benches/{bench_id}/emergency-stop', benchPath(benchId))))
}

/** Things may move again; nothing does by itself. */
export async function releaseEmergencyStop(benchId: number): Promise<void> {
  await attempt(got(client.DELETE('/api/benches/{bench_id}/emergency-stop', benchPath(benchId))))
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
  await keepSetup(await got(client.PATCH('/api/setups/{setup_id}', { ...setupPath(id), body })))
}

/** Have the setup's bench work with it. */
export async function putOnBench(setup: Schemas['SetupOut']): Promise<void> {
  const changed = await attempt(
    got(client.POST('/api/setups/{setup_id}/bench', setupPath(setup.id))),
  )
  if (changed) await keepSetup(changed)
  await reload(...benchQuery(setup.bench_id).queryKey)
}

export async function changeChannel(id: number, body: Schemas['ChannelChange']): Promise<void> {
  const path = { params: { path: { channel_id: id } } }
  await keepSetup(await got(client.PATCH('/api/channels/{channel_id}', { ...path, body })))
}

/** Change many channels as one action. Throws `ProblemError` for the field to show. */
export async function changeChannels(
  setupId: number,
  channels: Schemas['ChannelOfMany'][],
): Promise<void> {
  const url = '/api/setups/{setup_id}/channels'
  await keepSetup(await got(client.PATCH(url, { ...setupPath(setupId), body: { channels } })))
}

/** Change the scaling of many channels as one action. */
export async function changeScalings(
  setupId: number,
  channels: Schemas['ScalingOfMany'][],
): Promise<void> {
  const url = '/api/setups/{setup_id}/scaling'
  await keepSetup(await got(client.PATCH(url, { ...setupPath(setupId), body: { channels } })))
}

/** Give a free input a sensor; errors go to the caller. */
export async function wireSensor(
  setupId: number,
  body: Schemas['ChannelIn'],
): Promise<Schemas['SetupOut']> {
  const url = '/api/setups/{setup_id}/channels'
  const changed = await got(client.POST(url, { ...setupPath(setupId), body }))
  await keepSetup(changed)
  return changed
}

/** What was done to the part, and by how much the channel went. */
export async function keepSignTest(id: number, body: Schemas['SignTested']): Promise<true> {
  const path = { params: { path: { channel_id: id } } }
  await keepSetup(await got(client.POST('/api/channels/{channel_id}/sign-test', { ...path, body })))
  return true
}

/** Scale a channel by the table of its instrument's certificate. */
export async function scaleByCertificate(channel_id: number): Promise<void> {
  const path = { params: { path: { channel_id } } }
  await keepSetup(await got(client.POST('/api/channels/{channel_id}/scaling/certificate', path)))
}

export async function changeScaling(id: number, body: Schemas['ScalingChange']): Promise<void> {
  const path = { params: { path: { channel_id: id } } }
  await keepSetup(await got(client.PATCH('/api/channels/{channel_id}/scaling', { ...path, body })))
}
