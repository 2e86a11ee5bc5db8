import { QueryClientProvider } from '@tanstack/react-query'
import { afterEach, expect, it } from 'vitest'

import type { Derivation, Report, Run } from '../api/client'
import { queryClient } from '../api/queries'
import { columnsQuery } from '../api/results'
import { addPane, paneTitles } from '../panes'
import type { PaneProps } from '../panes/pane'
import { PageView } from '../panes/PageView'
import { placed, type Page } from '../panes/page'
import { ResultFigure } from '../stages/derive/ResultFigure'
import { WiringForm } from '../stages/wire/WiringForm'
import { Blocks } from '../stages/report/Blocks'
import { render } from '../ui/testing'
import { amplifier, channel, setup } from '../ui/testing-data'
import type { BlockFormProps } from './blocks/block'
import { addBlockKind } from './blocks'
import { addInputKind } from './inputs'
import { InputDrawing } from './inputs/InputDrawing'
import type { DrawingProps, FormProps } from './inputs/input'
import type { FigureProps } from './results/kind'
import { addResultKind } from './results'

/** Each kind is one object: no other file of the page knows it. */
const added: (() => void)[] = []
afterEach(() => added.splice(0).forEach((remove) => remove()))

it('a made-up pane stands in the list and is drawn with its options', async () => {
  const Component = ({ setup, options }: PaneProps<{ word: string }>) => (
    <p>{`${options.word} ${setup.channels.map((c) => c.name).join(' ')}`}</p>
  )
  const pane = {
    title: 'Made-up pane',
    fits: () => true,
    room: 1,
    proposes: () => [],
    lacks: ({ channels }: { channels: unknown[] }) =>
      channels.length > 1 ? '' : 'Two channels are needed.',
    options: { word: 'sees' },
    Component,
  }
  added.push(addPane('made up', pane))
  expect(paneTitles()).toContainEqual(['made up', 'Made-up pane'])
  const page: Page = {
    name: 'Page',
    rows: [{ columns: [{ panes: [placed('made up')], share: 1 }], share: 1 }],
  }
  const drawn = async (of: ReturnType<typeof setup>) =>
    (await render(<PageView page={page} setup={of} recording={false} change={() => {}} />))
      .textContent
  const two = setup({ channels: [channel({ name: 'SG1' }), channel({ name: 'SG2' })] })
  expect(await drawn(two)).toBe('sees SG1 SG2')
  expect(await drawn(setup({ channels: [channel()] }))).toBe('Two channels are needed.')
})

const run = { id: 3, name: 'C1 run 1' } as Run
const result = (kind: string) =>
  ({
    run: 3,
    recipe: { id: 9, setup: 1, version: 1, parameters: { kind, factor: 2 } },
    details: { kind },
    stale: false,
    problem: null,
    notes: [],
    computed_at: '2030-01-01T00:00:00Z',
  }) as unknown as Derivation

async function figureOf(kind: string) {
  const derivation = result(kind)
  const columns = { spread: new Float32Array([1, 2, 4]) }
  queryClient.setQueryData(columnsQuery(derivation).queryKey, columns)
  return render(
    <QueryClientProvider client={queryClient}>
      <ResultFigure run={run} derivation={derivation} />
    </QueryClientProvider>,
  )
}

it('a made-up result is drawn by its own figure', async () => {
  const Figure = ({ columns }: FigureProps) => <p>{`up to ${columns['spread']!.at(-1)}`}</p>
  added.push(addResultKind('made_up', { title: () => 'Made up', Figure, Form: () => null }))
  expect((await figureOf('made_up')).textContent).toBe('up to 4')
})

it('a result that the page does not know is drawn by its columns', async () => {
  const box = await figureOf('only_the_server_knows_it')
  expect(box.querySelector('figure')!.getAttribute('aria-label')).toBe('spread of the result')
})

it('a made-up block is edited by its own form, beside those that are not edited', async () => {
  const Form = ({ block }: BlockFormProps) => <p>{`edits ${block.kind}`}</p>
  added.push(addBlockKind('made_up', { Form }))
  const report = {
    blocks: [{ kind: 'made_up' }, { kind: 'raw_data', run: 3 }],
    block_titles: ['Made-up block', 'Data and seal'],
  } as unknown as Report
  const box = await render(<Blocks report={report} disabled onSave={() => Promise.resolve()} />)
  const rows = [...box.querySelectorAll('li')].map((row) => row.textContent)
  expect(rows).toEqual(['Made-up blockedits made_up', 'Data and seal'])
})

it('a made-up input is drawn and set as its kind says; without one, by its words', async () => {
  const clamped = channel({
    wiring: { kind: 'hall_clamp', turns: 3 } as never,
    connection: 'clamp about a conductor',
  })
  const shown = async () => {
    const box = await render(
      <QueryClientProvider client={queryClient}>
        <InputDrawing channel={clamped} device={amplifier} />
        <WiringForm channel={clamped} driver="stand-in" disabled={false} />
      </QueryClientProvider>,
    )
    return box.textContent
  }
  expect(await shown()).toContain('Connected as: clamp about a conductor.')
  const kind = {
    Drawing: ({ device }: DrawingProps) => <p>Clamp on {device.label}</p>,
    Form: ({ channel }: FormProps) => (
      <p>{(channel.wiring as unknown as { turns: number }).turns} turns</p>
    ),
  }
  added.push(addInputKind('hall_clamp', kind))
  expect(await shown()).toBe('Clamp on A13 turns')
})
