import { expect, it } from 'vitest'

import { channel, setup } from '../../ui/testing-data'
import { freeName } from './GiveSensor'

const named = (...names: string[]) => setup({ channels: names.map((name) => channel({ name })) })

it.each([
  ['strain', [], 'SG1'],
  ['strain', ['SG1', 'SG3'], 'SG2'],
  ['force', ['SG1'], 'F'],
  ['force', ['F', 'F2'], 'F3'],
  ['temperature', [], 'T'],
  ['light', ['CH'], 'CH2'],
])('the next free name for %s beside %s is %s', (quantity, names, wanted) => {
  expect(freeName({ quantity }, named(...names))).toBe(wanted)
})
