import { QueryClientProvider } from '@tanstack/react-query'
import { beforeEach, expect, it } from 'vitest'

import type { Run } from '../../api/client'
import { queryClient, tensionQuery } from '../../api/queries'
import { render } from '../../ui/testing'
import { tension } from '../../ui/testing-data'
import { ResultTable } from './ResultTable'

const run = (id: number) =>
  ({
    id,
    name: `C${id} run ${id}`,
    specimen: `C${id}`,
    state: 'kept',
    width_m: 0.0125,
    thickness_m: 0.003,
  }) as Run

async function table(results: [number, number | null][]) {
  results.forEach(([modulus, proof], i) =>
    queryClient.setQueryData(tensionQuery(i + 1).queryKey, tension(i + 1, modulus, proof)),
  )
  const box = await render(
    <QueryClientProvider client={queryClient}>
      <ResultTable runs={results.map((_, i) => run(i + 1))} chosen={1} />
    </QueryClientProvider>,
  )
  return [...box.querySelectorAll('tbody tr')].map((row) =>
    [...row.querySelectorAll('td')].map((cell) => cell.textContent),
  )
}

beforeEach(() => queryClient.clear())

it('shows a run in the units of the trade', async () => {
  const [row] = await table([[69.1e9, 276.44e6]])
  expect(row!.slice(0, 7)).toEqual(['C1', '12.50', '3.00', '69.1', '276.4', '310.0', '7.6'])
})

it('leaves a dash where there is no result', async () => {
  const [row] = await table([[69.1e9, null]])
  expect(row![4]).toBe('–')
})

it('gives mean and deviation of two runs and more', async () => {
  const rows = await table([
    [68e9, 270e6],
    [70e9, 280e6],
  ])
  expect(rows[2]!.slice(0, 3)).toEqual(['Mean of 2', '69.0', '275.0'])
  expect(rows[3]!.slice(0, 3)).toEqual(['Deviation', '1.4', '7.1'])
})

it('counts only the runs that have the value', async () => {
  const rows = await table([
    [68e9, 270e6],
    [70e9, null],
  ])
  expect(rows[2]![2]).toBe('–')
})

it('gives no mean of a single run', async () => {
  expect(await table([[69e9, 276e6]])).toHaveLength(1)
})
