import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { useNavigate } from 'react-router'

import { ProblemError } from '../../api/client'
import {
  dropFile,
  fileState,
  previewQuery,
  makeRun,
  type Choices,
  type ColumnChoice,
  type ImportPreview,
} from '../../api/files'
import { queryClient } from '../../api/queries'
import { useStage } from '../../frame/stage'
import { Button } from '../../ui/Button'
import { figure, significant } from '../../ui/format'
import { attempt, complain } from '../../ui/notices'
import { ColumnRow, TimeRow } from './ColumnRow'
import { FileSide } from './FileSide'

const POLL = 700 // ms

interface Props {
  fileKey: string
  onLeave: () => void
}

/** The file at the left; what each of its columns is taken for at the right, with the reason. */
export function PreviewPage({ fileKey, onLeave }: Props) {
  const [choices, setChoices] = useState<Choices>({})
  const found = useQuery({ ...previewQuery(fileKey, choices), placeholderData: keepPreviousData })
  const file = useQuery({ queryKey: ['file', fileKey], queryFn: () => fileState(fileKey) }).data
  const preview = found.data
  if (found.error) return <Trouble {...ProblemError.of(found.error)} onLeave={onLeave} />
  if (!preview) return <p className="p-8 text-soft">Looking at the file.</p>
  const choose = (change: Partial<Choices>) =>
    setChoices({ ...(preview.choices as Choices), ...change })
  const column = (choice: ColumnChoice) =>
    choose({ columns: preview.choices.columns.map((c) => (c.place === choice.place ? choice : c)) })
  return (
    <div className="grid h-full grid-cols-[380px_1fr] grid-rows-[44px_1fr_60px]">
      <div className="bar col-span-2 bg-sheet">
        <h1>Import a file</h1>
        <span>{file?.name}</span>
        <span className="text-soft">
          {file && figure(file.size / 1000, 1)} kB
          {!preview.whole && ', looked at in part: the rest is checked while the run is made'}
        </span>
      </div>
      <FileSide preview={preview} onChoose={(written) => setChoices({ ...choices, ...written })} />
      <section className="col overflow-y-auto!" aria-label="Columns">
        <TimeRow preview={preview} onChoose={(time) => choose({ time, columns: undefined })} />
        {preview.choices.columns
          .filter((c) => c.place !== preview.choices.time.column)
          .map((choice) => (
            <ColumnRow
              key={choice.place}
              preview={preview}
              column={preview.columns[choice.place]!}
              choice={choice}
              onChoose={column}
            />
          ))}
      </section>
      <Foot fileKey={fileKey} fileName={file?.name ?? ''} preview={preview} onLeave={onLeave} />
    </div>
  )
}

function Foot(props: {
  fileKey: string
  fileName: string
  preview: ImportPreview
  onLeave: () => void
}) {
  const { fileKey, fileName, preview, onLeave } = props
  const { setup } = useStage()
  const go = useNavigate()
  const [name, setName] = useState(fileName.replace(/\.[^.]*$/, ''))
  const [making, setMaking] = useState(false)
  const done = (run: number) => {
    void queryClient.invalidateQueries({ queryKey: ['runs', setup.id] })
    void go(`/setups/${setup.id}/derive?run=${run}`)
  }
  useMade(fileKey, making, done, () => setMaking(false))
  const make = async () => {
    const sent = await attempt(
      makeRun(fileKey, { ...(preview.choices as Choices), run_name: name.trim() }),
    )
    setMaking(!!sent)
  }
  const leave = async () => {
    await attempt(dropFile(fileKey))
    onLeave()
  }
  const guesses = preview.columns.filter((c) => c.doubtful).length + Number(preview.time_doubtful)
  return (
    <div className="col-span-2 flex items-center gap-4 border-t border-rule-strong bg-paper px-4">
      <label className="flex items-center gap-2">
        <span className="font-strong">Makes run</span>
        <input
          value={name}
          maxLength={80}
          onChange={(e) => setName(e.target.value)}
          className="w-44 border-b border-dotted border-soft bg-transparent"
        />
      </label>
      <Sums preview={preview} />
      <span className="ml-auto flex items-center gap-3">
        {guesses > 0 && (
          <span className="font-number text-marking-ink">
            {guesses} {guesses === 1 ? 'guess' : 'guesses'} to check
          </span>
        )}
        <Button size={36} disabled={making} onClick={() => void leave()}>
          Leave the file
        </Button>
        <Button
          size={36}
          look="go"
          waits={
            making
              ? 'The run is being made'
              : preview.problem
                ? 'No run can be made yet'
                : undefined
          }
          onClick={() => void make()}
        >
          Make the run
        </Button>
      </span>
    </div>
  )
}

function Sums({ preview }: { preview: ImportPreview }) {
  if (preview.problem)
    return (
      <p role="alert" className="max-w-110 text-small leading-4 text-signal">
        {preview.problem}
      </p>
    )
  const channels = preview.choices.columns.filter((c) => c.take).length
  return (
    <p className="text-small leading-4 text-soft">
      <span className="figure">{preview.rows}</span> rows, {channels}{' '}
      {channels === 1 ? 'channel' : 'channels'},{' '}
      <span className="figure">{significant(preview.duration_s ?? 0)}</span> s at{' '}
      <span className="figure">{significant(preview.rate_hz ?? 0)}</span> Hz
      {preview.gaps > 0 && `, ${figure(preview.gaps, 0)} ${preview.gaps === 1 ? 'gap' : 'gaps'}`}
    </p>
  )
}

/** Ask the server until the run is there, or why it is not. */
function useMade(
  key: string,
  making: boolean,
  done: (run: number) => void,
  failed: () => void,
): void {
  useEffect(() => {
    if (!making) return
    const timer = setInterval(() => {
      void fileState(key)
        .then((file) => {
          if (file.run_id) done(file.run_id)
          else if (file.state === 'here') {
            complain(new ProblemError({ title: file.problem, status: 422 }))
            failed()
          }
        })
        .catch(() => undefined) // asked again a moment later
    }, POLL)
    return () => clearInterval(timer)
  })
}

function Trouble({ title, hint, onLeave }: { title: string; hint?: string; onLeave: () => void }) {
  return (
    <section className="col h-full" aria-label="Import a file">
      <div className="bar">
        <h1>Import a file</h1>
      </div>
      <p role="alert" className="m-4 max-w-lg rounded border-l-4 border-signal bg-signal-wash p-4">
        <b className="font-strong">{title}</b> {hint}
      </p>
      <div className="px-4">
        <Button onClick={onLeave}>Choose another file</Button>
      </div>
    </section>
  )
}
