import { Popover } from 'radix-ui'
import type { RefObject } from 'react'

import type { CurvesPage } from '../../../api/curves'
import { Button } from '../../../ui/Button'
import { say } from '../../../ui/notices'
import { token } from '../../../ui/theme'
import { asFile, csvOf, download, pngOf, svgOf, type DrawnCurve } from './saving'
import { tableOf } from './tables'
import { channelNamed, isShown, useViewsOf, type LaidRun } from './useCurves'
import type { Range } from './zooms'

interface Props {
  page: CurvesPage
  laid: readonly LaidRun[]
  range: Range
  box: RefObject<HTMLDivElement | null>
}

/** What is drawn, as files or on the clipboard. */
export function Saving(props: Props) {
  return (
    <Popover.Root>
      <Popover.Trigger className="h-7 rounded border border-rule-strong bg-sheet px-2.5">
        Save
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          aria-label="Save"
          className="z-40 flex w-64 flex-col gap-1.5 rounded border border-rule bg-sheet p-3 shadow-lifted"
        >
          <Choices {...props} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}

function Choices({ page, laid, range, box }: Props) {
  const shown = laid.filter(isShown)
  const names = page.channels
  const views = useViewsOf(shown, names, range)
  const isWhole =
    laid.every((one) => one.zero !== null || one.problem !== '') &&
    names.every((plot, n) =>
      shown.every(
        (one, i) => one.channels.length > 0 && (!channelNamed(one, plot) || views[n]?.[i]),
      ),
    )
  const scale = page.speed_m_s ?? 1
  const xName = page.speed_m_s ? 'distance, m' : 'time, s'
  const drawn = (): DrawnCurve[] =>
    names.flatMap((plot, n) =>
      shown.flatMap((one, i): DrawnCurve[] => {
        const channel = channelNamed(one, plot)
        const segments = views[n]?.[i]
        if (!channel || !segments) return []
        const [x, y] = tableOf(segments, channel.unit, one.zero!, scale)
        const points = Array.from(x, (v, j): [number, number | null] => [v, y![j] ?? null])
        return [{ plot, unit: channel.unit, run: one.name, ...one.look, points }]
      }),
    )
  const copy = async () => {
    await navigator.clipboard.writeText(csvOf(drawn(), xName))
    say('Copied: a row for each point.')
  }
  return (
    <>
      <Button
        disabled={!isWhole}
        onClick={() => download('curves.csv', asFile(csvOf(drawn(), xName), 'text/csv'))}
      >
        CSV of what is drawn
      </Button>
      <Button disabled={!isWhole} onClick={() => void copy()}>
        Copy the CSV
      </Button>
      <Button
        disabled={!isWhole}
        onClick={() =>
          download('curves.svg', asFile(svgOf(drawn(), xName, token), 'image/svg+xml'))
        }
      >
        SVG
      </Button>
      <Button
        disabled={!isWhole}
        onClick={() => box.current && download('curves.png', pngOf(box.current, names))}
      >
        PNG
      </Button>
      <p className="text-small leading-4 text-soft">
        Lowest and highest of each pixel column; all samples are in the export of each run.
      </p>
    </>
  )
}
