import { useQuery } from '@tanstack/react-query'

import { useMay } from '../../api/queries'
import { addRecipe, recipeOffersQuery } from '../../api/results'
import { attempt } from '../../ui/notices'

/** Have one thing more derived of the setup's runs: what its channels are made for. */
export function DeriveMenu({ setupId, onAdded }: Props) {
  const may = useMay('change recipes')
  const offers = useQuery({ ...recipeOffersQuery(setupId), enabled: may }).data ?? []
  if (!may || !offers.length) return null
  const add = async (at: string) => {
    const id = await attempt(addRecipe(setupId, offers[Number(at)]!.parameters))
    if (id !== undefined) onAdded(id)
  }
  return (
    <select
      aria-label="Derive something more"
      value=""
      onChange={(e) => void add(e.target.value)}
      className="h-6 rounded border border-rule-strong bg-sheet px-1.5 text-small"
    >
      <option value="">Derive …</option>
      {offers.map(({ title }, i) => (
        <option key={title} value={i}>
          {title}
        </option>
      ))}
    </select>
  )
}

interface Props {
  setupId: number
  onAdded: (recipe: number) => void
}
