import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import type { Report } from '../../api/client'
import { blocksQuery, useRuns } from '../../api/queries'
import { useStage } from '../../frame/stage'
import { blockKind } from '../../kinds/blocks'
import type { Block, BlockFormProps } from '../../kinds/blocks/block'
import { Choice } from '../../ui/Choice'
import { attempt } from '../../ui/notices'

interface Props {
  report: Report
  disabled: boolean
  onSave: (blocks: Block[]) => Promise<unknown>
}

/** What the report consists of: moved, taken out, and added from the runs of this setup. */
export function Blocks({ report, disabled, onSave }: Props) {
  const { blocks } = report
  const move = (from: number, to: number) => {
    const rest = blocks.filter((_, i) => i !== from)
    return attempt(onSave([...rest.slice(0, to), blocks[from]!, ...rest.slice(to)]))
  }
  return (
    <>
      <ol>
        {blocks.map((block, i) => (
          <li
            key={`${i} ${report.block_titles[i]}`}
            className="border-t border-rule first:border-0"
          >
            <div className="flex min-h-7 items-center gap-1 text-small">
              <span className="min-w-0 flex-1 truncate" title={report.block_titles[i]}>
                {report.block_titles[i]}
              </span>
              {!disabled && (
                <>
                  <Small
                    words={`Move up: ${report.block_titles[i]}`}
                    path="M2 8L6 4L10 8"
                    disabled={i === 0}
                    onClick={() => void move(i, i - 1)}
                  />
                  <Small
                    words={`Move down: ${report.block_titles[i]}`}
                    path="M2 4L6 8L10 4"
                    disabled={i === blocks.length - 1}
                    onClick={() => void move(i, i + 1)}
                  />
                  <Small
                    words={`Take out: ${report.block_titles[i]}`}
                    path="M3 3L9 9M9 3L3 9"
                    onClick={() => void attempt(onSave(blocks.filter((_, at) => at !== i)))}
                  />
                </>
              )}
            </div>
            <BlockForm
              block={block}
              disabled={disabled}
              onSave={(changed) => onSave(blocks.map((b, at) => (at === i ? changed : b)))}
            />
          </li>
        ))}
      </ol>
      {!disabled && <Add onAdd={(block) => onSave([...blocks, block])} />}
    </>
  )
}

function BlockForm(props: BlockFormProps) {
  const Form = blockKind(props.block)?.Form
  return Form ? <Form {...props} /> : null
}

function Small(props: { words: string; path: string; disabled?: boolean; onClick: () => void }) {
  return (
    <button
      type="button"
      aria-label={props.words}
      disabled={props.disabled}
      onClick={props.onClick}
      className="flex-none p-0.5 text-soft hover:text-ink disabled:opacity-30"
    >
      <svg width="12" height="12" fill="none" stroke="currentColor" strokeWidth="1.6" aria-hidden>
        <path d={props.path} />
      </svg>
    </button>
  )
}

/** What there is to show of a run of this setup, put at the end. */
function Add({ onAdd }: { onAdd: (block: Block) => Promise<unknown> }) {
  const { setup } = useStage()
  const runs = useRuns(setup.id).rows.filter((r) => r.state !== 'recording')
  const [chosen, setChosen] = useState<number | null>(null)
  const run = runs.find((r) => r.id === chosen) ?? runs.at(-1)
  const offers = useQuery({ ...blocksQuery(run?.id ?? 0), enabled: !!run }).data ?? []
  return (
    <div className="mt-2 border-t border-rule-strong pt-1">
      {run && (
        <Choice
          label="From"
          value={String(run.id)}
          options={runs.map((r) => [String(r.id), r.name] as const)}
          onChoose={(id) => Promise.resolve(setChosen(Number(id)))}
        />
      )}
      <Choice
        label="Add"
        value=""
        options={[
          ['', 'choose a block…'],
          ...offers.map(({ title }, i) => [String(i), title] as const),
        ]}
        onChoose={(at) => (at ? onAdd(offers[Number(at)]!.block) : Promise.resolve())}
      />
    </div>
  )
}
