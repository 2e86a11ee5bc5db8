import { QueryClientProvider } from '@tanstack/react-query'
import { beforeEach, expect, it } from 'vitest'

import type { Run } from '../../api/client'
import { queryClient } from '../../api/queries'
import { derivationsQuery, seriesQuery } from '../../api/results'
import { render } from '../../ui/testing'
import { tension, UNITS } from '../../ui/testing-data'
import { learnUnits } from '../../ui/units'
import { ResultTable } from './ResultTable'

const run = (id: number, state = 'kept') =>
  ({ id, name: `C${id} run ${id}`, specimen: `C${id}`, state }) as Run

async function table(runs: Run[], results: [number, number | null][], deviation: number | null) {
  results.forEach(([modulus, proof], i) =>
    queryClient.setQueryData(derivationsQuery(i + 1).queryKey, [tension(i + 1, modulus, proof)]),
  )
  const [recipe, symbol, mean] = [7, 'E', 69e9]
  const spread = { lowest: mean, highest: mean, deviation }
  queryClient.setQueryData(seriesQuery(1).queryKey, [
    { recipe, symbol, mean, count: deviation === null ? 1 : 2, ...spread },
  ])
  const box = await render(
    <QueryClientProvider client={queryClient}>
      <ResultTable runs={runs} chosen={1} recipe={7} setupId={1} />
    </QueryClientProvider>,
  )
  return [...box.querySelectorAll('tbody tr')].map((row) =>
    [...row.querySelectorAll('td')].map((cell) => cell.textContent),
  )
}

beforeEach(() => {
  learnUnits(UNITS)
  queryClient.clear()
})

it('shows a run in the units of its results, a dash where there is none', async () => {
  const [row] = await table([run(1)], [[69.1e9, null]], null)
  expect(row).toEqual(['C1', '69.1', '–', 'C1 run 1, kept'])
})

it('gives mean and deviation as the server has them, and says what stays out', async () => {
  const rows = await table(
    [run(1), run(2), run(3, 'interrupted')],
    [
      [68e9, 270e6],
      [70e9, 280e6],
      [1e9, 1e6],
    ],
    1.4e9,
  )
  expect(rows[2]!.at(-1)).toBe('C3 run 3, interrupted, not in the mean')
  expect(rows[3]!.slice(0, 2)).toEqual(['Mean of 2', '69.0'])
  expect(rows[4]!.slice(0, 2)).toEqual(['Deviation', '1.4'])
})

it('gives a small deviation with the decimals of its column', async () => {
  const rows = await table(
    [run(1), run(2)],
    [
      [69e9, 270e6],
      [69e9, 280e6],
    ],
    2.99e7,
  )
  expect(rows[3]!.slice(0, 2)).toEqual(['Deviation', '0.0'])
})

it('writes a figure near zero like the others of its column', async () => {
  const rows = await table(
    [run(1), run(2)],
    [
      [69e9, 276e6],
      [-2.4e6, 276e6],
    ],
    1e9,
  )
  expect(rows.map((r) => r[1])).toEqual(['69.0', '0.0', '69.0', '1.0'])
})

it('gives no mean of a single run', async () => {
  expect(await table([run(1)], [[69e9, 276e6]], null)).toHaveLength(1)
})
