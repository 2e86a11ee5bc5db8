/** Computed channels of a setup, and formulas while they are typed. */

import { keepPreviousData, queryOptions } from '@tanstack/react-query'

import { keepSetup } from './actions'
import { client, got, type Schemas, type Setup } from './client'

export type Computed = Schemas['ComputedOut']
export type CheckedFormula = Schemas['FormulaOut']

const at = (setup_id: number) => ({ params: { path: { setup_id } } })
const of = (setup_id: number, computed_key: string) => ({
  params: { path: { setup_id, computed_key } },
})

/** What a formula comes to; asked for anew with each letter. */
export const formulaQuery = (setup: Setup, text: string, cursor: number, key: string) =>
  queryOptions({
    queryKey: ['formula', setup.id, setup.version, key, text, cursor],
    queryFn: () => {
      const body = { text, cursor, key }
      return got(
        client.POST('/api/setups/{setup_id}/formula', { ...at(setup.id), body }),
      ) as Promise<CheckedFormula>
    },
    enabled: text.trim() !== '',
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  })

async function shown(answer: Promise<Setup>): Promise<true> {
  await keepSetup(await answer)
  return true
}

export function addComputed(setup: number, name: string, formula: string) {
  const body = { name, formula, unit: '' } // the formula's own
  return shown(got(client.POST('/api/setups/{setup_id}/computed', { ...at(setup), body })))
}

export const changeComputed = (setup: number, key: string, body: Schemas['ComputedChange']) =>
  shown(
    got(
      client.PATCH('/api/setups/{setup_id}/computed/{computed_key}', { ...of(setup, key), body }),
    ),
  )

export const removeComputed = (setup: number, key: string) =>
  shown(got(client.DELETE('/api/setups/{setup_id}/computed/{computed_key}', of(setup, key))))
