import type { Readable } from '../../readable'
import type { Stop } from '../form'
import { SpecList } from '../SpecList'
import { STOPS } from '.'

interface Props {
  stops: readonly Stop[]
  channels: readonly Readable[]
  disabled: boolean
  onSave: (stops: Stop[]) => Promise<unknown>
}

/** What ends a run by itself, one thing below the other; by hand it ends always. */
export function StopList({ stops, ...rest }: Props) {
  return <SpecList items={stops} forms={STOPS} addLabel="Ends also by" {...rest} />
}
