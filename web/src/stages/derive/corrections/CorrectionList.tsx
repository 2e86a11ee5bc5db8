import { useQuery } from '@tanstack/react-query'

import type { Run, Schemas } from '../../../api/client'
import { useMay } from '../../../api/queries'
import {
  changeCorrection,
  hintsQuery,
  readingsQuery,
  removeCorrection,
  type Correction,
} from '../../../api/readings'
import { Button } from '../../../ui/Button'
import { Icon } from '../../../ui/Icon'
import { attempt } from '../../../ui/notices'
import { Toggle } from '../../../ui/Toggle'

interface Props {
  setupId: number
  run: Run
  /** Begin a correction; of a hint with what it proposes. */
  onCorrect: (proposed?: Correction, reason?: string) => void
}

/** The corrections of a run in their order, and what looks wrong with it. */
export function CorrectionList({ setupId, run, onCorrect }: Props) {
  const may = useMay('change scaling')
  const found = useQuery(readingsQuery(run.id)).data
  const hints = useQuery(hintsQuery(run.id, run.readings)).data ?? []
  const corrections = found?.corrections ?? []
  return (
    <section aria-label="Corrections" className="max-h-[55%] overflow-auto border-t border-rule">
      <div className="flex items-baseline gap-2 px-4 pt-2">
        <h3>Corrections</h3>
        <span className="text-small text-soft">
          {corrections.length ? 'in this order, samples kept' : 'none'}
        </span>
      </div>
      <ol>
        {corrections.map((c, i) => (
          <Line key={c.correction.key} number={i + 1} setupId={setupId} made={c} may={may} />
        ))}
      </ol>
      {hints.map((hint) => (
        <div key={hint.text} className="border-b border-rule px-4 py-2 text-small leading-4">
          <b className="flex items-start gap-1.5 font-strong text-marking-ink">
            <Icon name="warn" size={14} /> {hint.text}
          </b>
          <p className="py-1 text-soft">{hint.reason}</p>
          {hint.correction && may && (
            <Button size={24} onClick={() => onCorrect(hint.correction!, hint.reason)}>
              {hint.action}
            </Button>
          )}
        </div>
      ))}
      {may && (
        <div className="px-4 py-2">
          <Button size={24} onClick={() => onCorrect()}>
            Correct a channel…
          </Button>
        </div>
      )}
    </section>
  )
}

function Line(props: {
  number: number
  setupId: number
  made: Schemas['CorrectionOut']
  may: boolean
}) {
  const { number, setupId, made, may } = props
  const { correction, title, said, reason, by } = made
  const key = correction.key!
  return (
    <li className="flex gap-2 border-b border-rule px-4 py-2 text-small leading-4">
      <span className="figure w-3 flex-none text-soft">{number}</span>
      <span className={`min-w-0 flex-1 ${correction.on ? '' : 'text-soft'}`}>
        <b className="block font-strong">{title}</b>
        <span className="block truncate" title={`${made.channels.join(', ')}: ${said}`}>
          {made.channels.join(', ')}: <span className="figure">{said}</span>
        </span>
        <span className="block truncate text-soft" title={`${reason}, ${by}`}>
          {correction.on ? '' : 'off; '}
          {reason}, {by}
        </span>
      </span>
      <span className="flex flex-none flex-col items-end gap-1">
        <Toggle
          label={`${title} on`}
          on={correction.on}
          disabled={!may}
          onChange={(on) => void attempt(changeCorrection(setupId, key, { on }))}
        />
        {may && (
          <span className="flex">
            {number > 1 && (
              <button
                type="button"
                aria-label={`${title} one place earlier`}
                className="p-0.5 text-soft hover:text-ink"
                onClick={() =>
                  void attempt(changeCorrection(setupId, key, { position: number - 2 }))
                }
              >
                <Icon name="up" size={11} />
              </button>
            )}
            <button
              type="button"
              aria-label={`Take ${title} off`}
              className="p-0.5 text-soft hover:text-ink"
              onClick={() => void attempt(removeCorrection(setupId, key))}
            >
              <Icon name="cross" size={11} />
            </button>
          </span>
        )}
      </span>
    </li>
  )
}
