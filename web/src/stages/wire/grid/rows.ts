import type { Bench, Channel, Setup } from '../../../api/client'

type Device = Bench['devices'][number]

export interface InputLine {
  kind: 'input'
  id: number
  device: Device
  label: string
  signal: string
  channel?: Channel
}
export interface GroupLine {
  kind: 'group'
  id: string
  title: string
  words: string
  faults: number
  right: string
}
export type Line = InputLine | GroupLine
export type Order = 'device' | 'sensor'

/** Every input of the bench, under its device or under the kind of its sensor. */
export function linesOf(bench: Bench, setup: Setup, order: Order, search: string): Line[] {
  const byInput = new Map(setup.channels.map((c) => [c.input_id, c]))
  const inputs = bench.devices.flatMap((device) =>
    device.inputs.map((input): InputLine => ({
      kind: 'input',
      id: input.id,
      device,
      label: `${device.label}.${input.number}`,
      signal: input.signal,
      channel: byInput.get(input.id),
    })),
  )
  const found = inputs.filter((line) => matches(line, search.trim().toLowerCase()))
  return order === 'device' ? byDevice(found) : bySensor(found)
}

const matches = ({ label, channel: c }: InputLine, words: string): boolean =>
  !words ||
  `${label} ${c ? `${c.name} ${c.sensor.serial} ${c.sensor.kind} ${c.check?.title ?? ''}` : 'free'}`
    .toLowerCase()
    .includes(words)

const faultsIn = (lines: InputLine[]): number =>
  lines.filter(({ channel: c }) => c?.check && !c.check.old && !c.check.passed).length

function byDevice(lines: InputLine[]): Line[] {
  return grouped(
    lines,
    (l) => l.device.label,
    (members) => {
      const { device } = members[0]!
      const wired = members.filter((l) => l.channel).length
      const said = device.serial ? `serial ${device.serial}, firmware ${device.firmware}` : ''
      return {
        words: said || 'has not answered yet',
        right: `${wired} of ${members.length} wired`,
      }
    },
  )
}

function bySensor(lines: InputLine[]): Line[] {
  const wired = lines.filter((l) => l.channel)
  const sorted = wired.sort((a, b) => nameOf(a).localeCompare(nameOf(b), 'en'))
  return grouped(
    sorted,
    (l) => l.channel!.sensor.kind,
    (members) => ({
      words: '',
      right: `${members.length}`,
    }),
  )
}

const nameOf = (line: InputLine) => `${line.channel!.sensor.kind} ${line.channel!.sensor.serial}`

function grouped(
  lines: InputLine[],
  key: (line: InputLine) => string,
  head: (members: InputLine[]) => { words: string; right: string },
): Line[] {
  const groups = new Map<string, InputLine[]>()
  for (const line of lines) groups.set(key(line), [...(groups.get(key(line)) ?? []), line])
  return [...groups].flatMap(([title, members]): Line[] => [
    { kind: 'group', id: title, title, faults: faultsIn(members), ...head(members) },
    ...members,
  ])
}

export const inputsOf = (lines: readonly Line[]): InputLine[] =>
  lines.filter((l): l is InputLine => l.kind === 'input')
