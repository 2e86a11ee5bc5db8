import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { ProblemError, type Bench } from '../api/client'
import { benchTextQuery, previewBench, readBench } from '../api/devices'
import { useMay } from '../api/queries'
import { Button } from '../ui/Button'
import { say } from '../ui/notices'

/** The bench as a text that can be kept and changed; what it would do is shown before it is done. */
export function BenchText({ bench }: { bench: Bench }) {
  const written = useQuery(benchTextQuery(bench.id)).data
  return (
    <section className="col" aria-label="The bench as text">
      <div className="bar">
        <h1>{bench.name} as text</h1>
        <span className="truncate text-soft">
          YAML;{' '}
          <a className="text-petrol underline" href="/api/bench-file/schema">
            its schema
          </a>
        </span>
      </div>
      {written !== undefined && <Editor key={written} bench={bench} written={written} />}
    </section>
  )
}

function Editor({ bench, written }: { bench: Bench; written: string }) {
  const may = useMay('set up benches')
  const [text, setText] = useState(written)
  const [changes, setChanges] = useState<string[] | null>(null)
  const [problem, setProblem] = useState<ProblemError | null>(null)
  const change = (next: string) => {
    setText(next)
    setChanges(null)
    setProblem(null)
  }
  const run = async (action: Promise<string[]>, done: (changes: string[]) => void) => {
    try {
      done(await action)
      setProblem(null)
    } catch (error) {
      setChanges(null)
      setProblem(ProblemError.of(error))
    }
  }
  const lines = text.split('\n').length
  return (
    <>
      <div className="flex min-h-0 flex-1 overflow-auto bg-sheet py-2">
        <pre aria-hidden className="figure flex-none px-3 text-right text-body leading-5 text-soft">
          {Array.from({ length: lines }, (_, n) => n + 1).join('\n')}
        </pre>
        <textarea
          aria-label="The bench file"
          value={text}
          spellCheck={false}
          readOnly={!may}
          rows={lines}
          onChange={(e) => change(e.target.value)}
          className="figure min-w-0 flex-1 resize-none overflow-hidden bg-transparent pr-4 text-body leading-5 whitespace-pre"
        />
      </div>
      <div className="flex flex-none flex-col gap-2 border-t border-rule bg-paper px-4 py-2">
        {problem && (
          <p role="alert" className="text-signal">
            <b className="font-strong">{problem.title}</b> {problem.hint}
          </p>
        )}
        {changes && (
          <ul role="status" className="max-h-28 overflow-y-auto">
            {changes.map((c) => (
              <li key={c}>{c}</li>
            ))}
            {!changes.length && <li className="text-soft">The bench is so already.</li>}
          </ul>
        )}
        <div className="flex items-center gap-3">
          {may && (
            <Button
              look={changes?.length ? 'plain' : 'go'}
              size={36}
              waits={text === written ? 'Change the text first' : undefined}
              onClick={() => void run(previewBench(bench.id, text), setChanges)}
            >
              Show what it changes
            </Button>
          )}
          {!!changes?.length && (
            <Button
              look="go"
              size={36}
              onClick={() =>
                void run(readBench(bench.id, text), (done) =>
                  say(`${bench.name} is as the text says: ${done.length} changes`),
                )
              }
            >
              Make the bench so
            </Button>
          )}
          <a
            className="ml-auto text-petrol underline underline-offset-2"
            download={`${bench.name}.yaml`}
            href={`data:text/yaml;charset=utf-8,${encodeURIComponent(text)}`}
          >
            Keep it as a file
          </a>
        </div>
      </div>
    </>
  )
}
