import { client, got, type Schemas } from '../../api/client'
import { queryClient, tensionQuery } from '../../api/queries'

/** Change the recipe; the worker computes the shown run anew, then the others. */
export async function changeRecipe(runId: number, body: Schemas['RecipeChange']): Promise<void> {
  const path = { params: { path: { run_id: runId } } }
  const tension = await got(client.PATCH('/api/runs/{run_id}/tension', { ...path, body }))
  queryClient.setQueryData(tensionQuery(runId).queryKey, tension)
}
