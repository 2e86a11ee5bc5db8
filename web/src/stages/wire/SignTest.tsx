import { useState } from 'react'

import type { Channel } from '../../api/client'
import { changeScaling, keepSignTest } from '../../api/actions'
import { useMay } from '../../api/queries'
import { useReading } from '../../live/LiveProvider'
import { Button } from '../../ui/Button'
import { Fact, Section } from '../../ui/Fact'
import { figure } from '../../ui/format'
import { Reading } from '../../ui/Reading'
import { attempt } from '../../ui/notices'
import { spanFromSi } from '../../ui/units'

/** What counts positive, whether somebody tried it at the part, and how to turn it. */
export function SignTest({ channel }: { channel: Channel }) {
  const [base, setBase] = useState<number | null>(null)
  const reading = useReading(channel.key)
  const mayTest = useMay('zero and check channels')
  const { test } = channel.sign
  const wrong = test && !test.old && !test.passed
  return (
    <Section title="Sign">
      <Fact name={`${channel.sign.counts} reads`}>
        {channel.polarity === 'as wired' ? 'positive' : `positive, ${channel.polarity}`}
      </Fact>
      <Fact name="Tested at the part">
        <Tested test={test} />
      </Fact>
      {wrong && <Turn channel={channel} />}
      {base !== null && reading ? (
        <Watch
          channel={channel}
          change={reading.mean - base}
          noise={reading.deviation}
          onDone={() => setBase(null)}
        />
      ) : (
        mayTest && (
          <div className="pt-1">
            <Button
              size={24}
              disabled={!reading || reading.clipped}
              onClick={() => setBase(reading!.mean)}
            >
              {test ? 'Test the sign again' : 'Press here: which way does it go?'}
            </Button>
          </div>
        )
      )}
    </Section>
  )
}

function Tested({ test }: { test: Channel['sign']['test'] }) {
  if (!test) return <span className="text-soft">not yet</span>
  if (test.old) return <span className="text-marking-ink">changed since</span>
  return test.passed ? (
    <span className="text-moss">goes the right way</span>
  ) : (
    <b className="font-strong text-signal">goes the wrong way</b>
  )
}

interface WatchProps {
  channel: Channel
  change: number
  noise: number
  onDone: () => void
}

/** The part is loaded by hand: the largest change is held until somebody says what they did. */
function Watch({ channel: c, change, noise, onDone }: WatchProps) {
  const [largest, setLargest] = useState({ moved: 0, deviation: 0 })
  const [polarity] = useState(c.polarity)
  if (Math.abs(change) > Math.abs(largest.moved)) setLargest({ moved: change, deviation: noise })
  const { moved, deviation } = largest
  const clear = Math.abs(moved) > Math.max(c.sign.clear * deviation, c.sign.smallest)
  const say = async (positive: boolean) => {
    if (await attempt(keepSignTest(c.id, { positive, polarity, ...largest }))) onDone()
  }
  return (
    <div role="status" className="mt-1 rounded border border-petrol bg-paper px-2.5 py-2">
      {clear ? (
        <>
          <p className="text-large font-strong">
            It went {moved > 0 ? 'up' : 'down'} by{' '}
            <span className="figure">
              {figure(Math.abs(spanFromSi(moved, c.unit)), c.decimals)}
            </span>{' '}
            {c.unit}
          </p>
          <p className="mb-1.5 text-small text-soft">What was done to the part?</p>
          <div className="flex flex-col items-start gap-1.5">
            <Button onClick={() => void say(true)}>{c.sign.positive}</Button>
            <Button onClick={() => void say(false)}>{c.sign.negative}</Button>
          </div>
        </>
      ) : (
        <>
          <p>Load the part by hand, and hold it.</p>
          <p className="text-state leading-7">
            <Reading text={figure(spanFromSi(change, c.unit), c.decimals)} />{' '}
            <span className="text-body text-soft">{c.unit}</span>
          </p>
        </>
      )}
      <button
        type="button"
        className="mt-1.5 text-small text-petrol underline underline-offset-2"
        onClick={onDone}
      >
        Leave it
      </button>
    </div>
  )
}

/** Two ways to have it go right: at the plug, or here, where it is recorded. */
function Turn({ channel: c }: { channel: Channel }) {
  const may = useMay('change scaling')
  return (
    <div className="py-1 text-small leading-4">
      <p>
        {c.sign.swap
          ? `Swap ${c.sign.swap}, or turn it here.`
          : 'No exchange of cores turns it: look whether it is the part you think, or turn it here.'}
      </p>
      {may &&
        turns(c).map(([polarity, words]) => (
          <Button
            key={polarity}
            size={24}
            className="mt-1 mr-1"
            onClick={() => void attempt(changeScaling(c.id, { polarity }))}
          >
            {words}
          </Button>
        ))}
    </div>
  )
}

/** What may be said here of a channel that reads the wrong way. */
function turns(c: Channel): [Channel['polarity'], string][] {
  if (c.polarity !== 'as wired') return [['as wired', `Count ${c.name} as wired`]]
  const turned: [Channel['polarity'], string] = ['turned', `Turn ${c.name}`]
  return c.sign.swap ? [['cores swapped', 'Its cores are swapped'], turned] : [turned]
}
