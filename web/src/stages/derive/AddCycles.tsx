import type { Run } from '../../api/client'
import { useMay } from '../../api/queries'
import { addRecipe, type Parameters } from '../../api/results'
import { attempt } from '../../ui/notices'

const COUNTED = ['strain', 'force']

/** Have the cycles of one more channel counted. */
export function AddCycles({ run, setupId, onAdded }: Props) {
  const may = useMay('change recipes')
  const channels = run.channels.filter((c) => COUNTED.includes(c.quantity))
  if (!may || !channels.length) return null
  const add = async (channel: string) => {
    const asked = { kind: 'cycles', channel } as Parameters // the server has the rest
    const id = await attempt(addRecipe(setupId, asked))
    if (id !== undefined) onAdded(id)
  }
  return (
    <select
      aria-label="Count the cycles of a channel"
      value=""
      onChange={(e) => void add(e.target.value)}
      className="h-6 rounded border border-rule-strong bg-sheet px-1.5 text-[12px]"
    >
      <option value="">Count cycles of …</option>
      {channels.map((c) => (
        <option key={c.key} value={c.key}>
          {c.name}
        </option>
      ))}
    </select>
  )
}

interface Props {
  run: Run
  setupId: number
  onAdded: (recipe: number) => void
}
