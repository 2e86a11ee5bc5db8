import { useState } from 'react'

import { importTable, type Imported } from '../api/library'
import { ProblemError } from '../api/client'
import { Button } from '../ui/Button'
import { say } from '../ui/notices'

const TONES: Record<string, string> = {
  new: 'text-moss',
  changed: 'text-marking-ink',
  same: 'text-soft',
  refused: 'text-signal',
}

/** A table of sensors: first what it would do, line by line, then all of it or nothing. */
export function ImportTable({ onDone }: { onDone: () => void }) {
  const [file, setFile] = useState<File | null>(null)
  const [lines, setLines] = useState<Imported[] | null>(null)
  const [problem, setProblem] = useState<ProblemError | null>(null)
  const look = async (chosen: File | undefined) => {
    setProblem(null)
    setLines(null)
    setFile(chosen ?? null)
    if (!chosen) return
    try {
      setLines(await importTable(chosen, true))
    } catch (error) {
      setProblem(ProblemError.of(error))
    }
  }
  const take = async () => {
    if (!file) return
    try {
      const done = await importTable(file, false)
      say(`Took ${done.filter((l) => l.outcome !== 'same').length} sensors into the library.`)
      onDone()
    } catch (error) {
      setProblem(ProblemError.of(error))
    }
  }
  const refused = lines?.filter((l) => l.outcome === 'refused').length ?? 0
  const taken = lines?.filter((l) => ['new', 'changed'].includes(l.outcome)).length ?? 0
  return (
    <section className="col" aria-label="Import a table">
      <div className="bar">
        <h2>Import a table</h2>
      </div>
      <div className="min-h-0 flex-1 overflow-y-auto p-4">
        <p className="mb-2 text-soft">
          CSV or XLSX with a sensor a row; export the library to see its columns.
        </p>
        <input
          type="file"
          accept=".csv,.xlsx,text/csv"
          aria-label="File"
          onChange={(e) => void look(e.target.files?.[0])}
        />
        {problem && (
          <p role="alert" className="mt-3 text-signal">
            <b className="font-strong">{problem.title}</b> {problem.hint}
          </p>
        )}
        <ul className="mt-3">
          {lines?.map((l) => (
            <li key={l.line} className="flex gap-2 border-t border-rule py-1 text-small">
              <span className="figure w-8 flex-none text-soft">{l.line}</span>
              <b className="w-28 flex-none truncate font-strong">{l.serial}</b>
              <span className={TONES[l.outcome]}>
                {l.outcome === 'refused' ? l.why_not : l.outcome}
              </span>
            </li>
          ))}
        </ul>
      </div>
      <div className="flex flex-none gap-2 border-t border-rule bg-paper px-4 py-2">
        <Button
          look="go"
          size={36}
          waits={
            !lines
              ? 'Choose a file first'
              : refused
                ? `${refused} lines must be put right first`
                : !taken
                  ? 'Nothing in it is new'
                  : undefined
          }
          onClick={() => void take()}
        >
          Take {taken} {taken === 1 ? 'sensor' : 'sensors'}
        </Button>
        <Button size={36} onClick={onDone}>
          Leave it
        </Button>
      </div>
    </section>
  )
}
