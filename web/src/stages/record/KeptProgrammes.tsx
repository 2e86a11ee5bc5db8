import { useQuery } from '@tanstack/react-query'

import type { Setup } from '../../api/client'
import {
  keepProgramme,
  programmesQuery,
  removeProgramme,
  takeProgramme,
} from '../../api/programmes'
import { Button } from '../../ui/Button'
import { Choice } from '../../ui/Choice'
import { EditableText } from '../../ui/Editable'
import { attempt, say } from '../../ui/notices'

/** Programmes kept under a name: take one, keep this one for others. */
export function KeptProgrammes({ setup, disabled }: { setup: Setup; disabled: boolean }) {
  const kept = useQuery(programmesQuery).data ?? []
  if (disabled) return null
  const same = kept.find((p) => p.sentence === setup.paper?.sentence)
  return (
    <>
      {kept.length > 0 && (
        <Choice
          label="Take a kept one"
          value={same ? String(same.id) : ''}
          options={[['', 'choose…'], ...kept.map((p) => [String(p.id), p.name] as const)]}
          onChoose={(id) => (id ? takeProgramme(setup.id, Number(id)) : Promise.resolve())}
        />
      )}
      {setup.paper && (
        <EditableText
          label="Keep it as"
          value={same?.name ?? ''}
          onSave={async (name) => {
            await keepProgramme(setup.id, name)
            say(`Kept as ${name}, for other setups too.`)
          }}
        />
      )}
      {same && (
        <Button size={24} onClick={() => void attempt(removeProgramme(same.id))}>
          Take {same.name} away
        </Button>
      )}
    </>
  )
}
