import type { List } from '../api/list'
import { Button } from './Button'

/** Under the rows of a list that goes on: the next page of it. */
export function Older({ list, what }: { list: List<unknown>; what: string }) {
  if (!list.more) return null
  return (
    <li className="p-3.5">
      <Button size={28} disabled={list.reading} onClick={list.older}>
        {list.more} older {what}
      </Button>
    </li>
  )
}
