import { useState } from 'react'
import { useSearchParams } from 'react-router'

import { sendFile } from '../../api/files'
import { useMay } from '../../api/queries'
import { useStage } from '../../frame/stage'
import { attempt } from '../../ui/notices'
import { PreviewPage } from './PreviewPage'

/** A file of numbers becomes a run: choose it, see what it is taken for, make the run. */
export function ImportFile() {
  const [params, setParams] = useSearchParams()
  const key = params.get('file')
  return key ? (
    <PreviewPage key={key} fileKey={key} onLeave={() => setParams({})} />
  ) : (
    <ChooseFile onHere={(file) => setParams({ file })} />
  )
}

function ChooseFile({ onHere }: { onHere: (key: string) => void }) {
  const { setup } = useStage()
  const may = useMay('import files')
  const [share, setShare] = useState<number | null>(null)
  const send = async (file: File | undefined) => {
    if (!file) return
    setShare(0)
    const sent = await attempt(sendFile(setup.id, file, setShare))
    setShare(null)
    if (sent) onHere(sent.key)
  }
  return (
    <section
      className="col h-full"
      aria-label="Import a file"
      onDragOver={(e) => e.preventDefault()}
      onDrop={(e) => {
        e.preventDefault()
        if (may) void send(e.dataTransfer.files[0])
      }}
    >
      <div className="bar">
        <h1>Import a file</h1>
        <span className="text-soft">a prediction, or what another system measured</span>
      </div>
      <div className="m-8 flex max-w-160 flex-col gap-4 rounded border border-dashed border-rule-strong p-8">
        {share === null ? (
          <>
            <p>
              A text file with a row of figures for each instant: CSV or the like, with any
              separator, decimal points or commas, with or without names and units. It is looked at
              first; a run is made when you say so.
            </p>
            <label className="inline-flex h-9 w-fit cursor-pointer items-center rounded border border-petrol bg-petrol px-4 text-lead font-name text-on-petrol focus-within:outline-2 focus-within:outline-offset-2 focus-within:outline-petrol">
              Choose a file
              <input
                type="file"
                className="sr-only"
                disabled={!may}
                accept=".csv,.txt,.dat,.tsv,.asc,text/*"
                onChange={(e) => void send(e.target.files?.[0])}
              />
            </label>
            <p className="text-soft">
              {may ? 'Or drop it anywhere on this page.' : 'Reviewers only read.'}
            </p>
          </>
        ) : (
          <div role="status">
            <p className="pb-2">
              Sending, <span className="figure">{Math.floor(100 * share)}</span> %
            </p>
            <progress value={share} className="h-2 w-full accent-petrol" aria-label="Sent" />
          </div>
        )}
      </div>
    </section>
  )
}
