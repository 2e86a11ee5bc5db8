import { EditableText } from '../../ui/Editable'

/** In which legs a rule keeps, from 1; none for all the time. */
export function LegsField(props: {
  legs: readonly number[]
  disabled: boolean
  onSave: (legs: number[]) => Promise<unknown>
}) {
  return (
    <EditableText
      label="In legs"
      value={props.legs.length ? props.legs.join(', ') : 'all'}
      disabled={props.disabled}
      onSave={(text) => props.onSave(legsOf(text))}
    />
  )
}

/** What a person wrote of legs: numbers with anything between them. */
export const legsOf = (text: string): number[] =>
  [...text.matchAll(/\d+/g)].map((m) => Number(m[0])).filter((n) => n > 0)

export const legsSaid = (legs: readonly number[] | undefined): string =>
  !legs?.length ? '' : legs.length === 1 ? `leg ${legs[0]}, ` : `legs ${legs.join(', ')}, `
