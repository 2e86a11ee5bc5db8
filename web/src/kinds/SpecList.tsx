import type { ReactNode } from 'react'

import type { Readable } from '../readable'
import { Choice } from '../ui/Choice'
import { Icon } from '../ui/Icon'
import { attempt } from '../ui/notices'
import { formOf, kindsOf, type Forms } from './form'
import { OwnFields } from './OwnFields'

interface Props<S extends { kind?: string }> {
  items: readonly S[]
  forms: Forms<S>
  channels: readonly Readable[]
  disabled: boolean
  /** What the choice of one more is called. */
  addLabel: string
  /** Their order counts: each has its number, and can be moved up. */
  ordered?: boolean
  /** Beside the label of an item. */
  note?: (item: S, at: number) => ReactNode
  onSave: (items: S[]) => Promise<unknown>
}

/** Several specs below each other, each with the fields of its kind. */
export function SpecList<S extends { kind?: string }>(props: Props<S>) {
  const { items, forms, channels, disabled, addLabel, ordered, note, onSave } = props
  const put = (at: number, item: S) => onSave(items.map((s, i) => (i === at ? item : s)))
  const add = (kind: string) => {
    const seed = formOf(forms, kind).seed(channels)
    return seed ? onSave([...items, seed]) : Promise.resolve()
  }
  const earlier = (at: number) =>
    onSave([...items.slice(0, at - 1), items[at]!, items[at - 1]!, ...items.slice(at + 1)])
  const offered = kindsOf(forms).filter(([kind]) => {
    const form = formOf(forms, kind)
    return form.seed(channels) && (form.several || !items.some((s) => s.kind === kind))
  })
  return (
    <>
      {items.map((item, i) => {
        const { label } = formOf(forms, item.kind!)
        const title = ordered ? `${i + 1}. ${label}` : label
        return (
          <div key={i} className="border-t border-rule pt-1 first-of-type:border-t-0">
            <div className="flex items-center text-small">
              <b className="font-strong">{title}</b>
              {note && <span className="ml-2 text-soft">{note(item, i)}</span>}
              {!disabled && (
                <span className="ml-auto flex">
                  {ordered && i > 0 && (
                    <button
                      type="button"
                      aria-label={`Earlier: ${title}`}
                      className="px-1 text-soft hover:text-ink"
                      onClick={() => void attempt(earlier(i))}
                    >
                      <Icon name="up" size={12} />
                    </button>
                  )}
                  <button
                    type="button"
                    aria-label={`Take out: ${title}`}
                    className="p-1 text-soft hover:text-ink"
                    onClick={() => void attempt(onSave(items.filter((_, at) => at !== i)))}
                  >
                    <Icon name="cross" size={12} />
                  </button>
                </span>
              )}
            </div>
            <OwnFields
              forms={forms}
              spec={item}
              channels={channels}
              disabled={disabled}
              onSave={(to) => put(i, to)}
            />
          </div>
        )
      })}
      {!disabled && offered.length > 0 && (
        <Choice
          label={addLabel}
          value=""
          options={[['', 'choose…'], ...offered]}
          onChoose={(kind) => (kind ? add(kind) : Promise.resolve())}
        />
      )}
    </>
  )
}
