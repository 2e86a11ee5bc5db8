import { client, got, type Schemas } from '../../../api/client'
import { keepSetup } from '../../../api/actions'
import { attempt } from '../../../ui/notices'

export type CellIn = Schemas['CellIn']
export type Outcome = Schemas['OutcomeOut']

const path = (id: number) => ({ params: { path: { setup_id: id } } })

/** Put texts into cells as one action; what became of each, or nothing where all was refused. */
export async function putCells(setupId: number, cells: CellIn[]): Promise<Outcome[]> {
  const url = '/api/setups/{setup_id}/cells'
  const body = { cells, dry: false }
  const done = await attempt(got(client.POST(url, { ...path(setupId), body })))
  if (done) await keepSetup(done.setup)
  return done?.cells ?? []
}

/** Fill a row down into those below; with `dry` only what would become of them. */
export async function fillDown(
  setupId: number,
  inputs: number[],
  columns: string[],
  dry: boolean,
): Promise<Outcome[]> {
  const url = '/api/setups/{setup_id}/fill-down'
  const body = { inputs, columns, dry }
  const done = await attempt(got(client.POST(url, { ...path(setupId), body })))
  if (done && !dry) await keepSetup(done.setup)
  return done?.cells ?? []
}

export const cellKey = (input: number, column: string): string => `${input} ${column}`

/** Outcomes by cell, for the table to show. */
export const byCell = (outcomes: readonly Outcome[]): Map<string, Outcome> =>
  new Map(outcomes.map((o) => [cellKey(o.input_id, o.column), o]))
