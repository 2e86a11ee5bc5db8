import { useState } from 'react'

import { givePicture, takePictureAway, type Instrument } from '../api/library'
import { Button } from '../ui/Button'
import { FileButton } from '../ui/FileButton'
import { attempt } from '../ui/notices'

/** What it looks like, to be found on the shelf. */
export function Picture({ instrument }: { instrument: Instrument }) {
  const { picture_id: id, serial, name } = instrument
  if (id === null) return null
  return (
    <img
      src={`/api/pictures/${id}`}
      alt={`${serial}, ${name}`}
      className="h-33 w-full border-b border-rule bg-paper object-contain p-2"
    />
  )
}

export function PictureActions({ instrument }: { instrument: Instrument }) {
  const [busy, setBusy] = useState(false)
  const during = async (action: Promise<unknown>) => {
    setBusy(true)
    await attempt(action)
    setBusy(false)
  }
  const has = instrument.picture_id !== null
  return (
    <div className="flex items-center">
      <FileButton
        accept="image/jpeg,image/png,image/webp"
        disabled={busy}
        onFile={(file) => during(givePicture(instrument.id, file))}
      >
        {busy ? 'Sending' : has ? 'Another picture' : 'Add a picture'}
      </FileButton>
      {has && (
        <Button
          size={24}
          disabled={busy}
          onClick={() => void during(takePictureAway(instrument.id))}
        >
          Take the picture away
        </Button>
      )}
    </div>
  )
}
