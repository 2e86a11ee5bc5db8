/** Results of runs: what the worker computed, and the recipes by which it does. */

import { keepPreviousData, queryOptions } from '@tanstack/react-query'

import { client, got, type Derivation, type Schemas } from './client'
import { fetchColumns, unpack } from './columns'
import { queryClient } from './queries'

export const derivationsQuery = (runId: number) =>
  queryOptions({
    queryKey: ['derivations', runId],
    queryFn: () =>
      got(client.GET('/api/runs/{run_id}/derivations', { params: { path: { run_id: runId } } })),
    retry: false,
  })

export const seriesQuery = (setupId: number) =>
  queryOptions({
    queryKey: ['series', setupId],
    queryFn: () =>
      got(client.GET('/api/setups/{setup_id}/series', { params: { path: { setup_id: setupId } } })),
  })

/** Columns of figures by name, in SI. */
export type Columns = Readonly<Record<string, Float32Array>>

interface Header {
  columns: { name: string; count: number }[]
}

export function byName(buffer: ArrayBuffer): Columns {
  const { header, numbers } = unpack<Header>(buffer)
  const found: Record<string, Float32Array> = {}
  let at = 0
  for (const { name, count } of header.columns) {
    found[name] = numbers.subarray(at, at + count)
    at += count
  }
  return found
}

export const columnsQuery = ({ run, recipe, computed_at }: Derivation) =>
  queryOptions({
    queryKey: ['columns', run, recipe.id, computed_at],
    queryFn: async ({ signal }) =>
      byName(await fetchColumns(`/api/runs/${run}/derivations/${recipe.id}/arrays`, {}, signal)),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  })

export type Parameters = Schemas['RecipeOut']['parameters']

export const recipeOffersQuery = (setupId: number) =>
  queryOptions({
    queryKey: ['setup', setupId, 'recipe offers'],
    queryFn: () =>
      got(
        client.GET('/api/setups/{setup_id}/recipe-offers', {
          params: { path: { setup_id: setupId } },
        }),
      ),
  })

/** Formats of files in which a stream of a run can be taken along. */
export const formatsQuery = queryOptions({
  queryKey: ['formats'],
  queryFn: () => got(client.GET('/api/formats')),
  staleTime: Infinity,
})

const reload = () => queryClient.invalidateQueries({ queryKey: ['derivations'] })

/** Change a recipe; the worker computes the shown run anew, then the others. */
export async function changeRecipe(
  recipe: Schemas['RecipeOut'],
  change: Partial<Parameters>,
  run: number,
): Promise<void> {
  const path = { params: { path: { recipe_id: recipe.id } } }
  const parameters = { ...recipe.parameters, ...change } as Parameters
  await got(client.PATCH('/api/recipes/{recipe_id}', { ...path, body: { parameters, run } }))
  await reload()
}

export async function addRecipe(setupId: number, parameters: Parameters): Promise<number> {
  const path = { params: { path: { setup_id: setupId } } }
  const answer = client.POST('/api/setups/{setup_id}/recipes', { ...path, body: { parameters } })
  const { id } = await got(answer)
  await reload()
  return id
}

export async function removeRecipe(id: number): Promise<void> {
  const path = { params: { path: { recipe_id: id } } }
  await got(client.DELETE('/api/recipes/{recipe_id}', path))
  await reload()
}
