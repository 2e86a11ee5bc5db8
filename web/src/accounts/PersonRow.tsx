import {
  changeRole,
  endSessions,
  givePassword,
  removePerson,
  ROLES,
  type PersonRow as Row,
  type Role,
} from '../api/people'
import { Button } from '../ui/Button'
import { ConfirmedButton } from '../ui/ConfirmedButton'
import { Segments } from '../ui/Fact'
import { Form, TextField } from '../ui/Form'
import { clock, day } from '../ui/format'
import { attempt, say } from '../ui/notices'

export const PERSON_ROW = 'grid grid-cols-[minmax(160px,1fr)_272px_168px_96px] items-center'

interface Props {
  person: Row
  chosen: boolean
  onChoose: (yes: boolean) => void
}

/** Somebody who may sign in; chosen, with what can be done about it. */
export function PersonRow({ person, chosen, onChoose }: Props) {
  const at = person.last_signed_in_at
  return (
    <li className={`border-b border-rule ${person.removed ? 'bg-well' : 'bg-sheet'}`}>
      <div className={`${PERSON_ROW} min-h-11`}>
        <span
          className={`px-4 text-lead ${person.removed ? 'text-soft line-through' : 'font-number'}`}
        >
          {person.username}
        </span>
        <span className="px-4">
          {person.removed ? (
            <span className="text-small text-soft">removed, was {person.role}</span>
          ) : (
            <Segments
              label={`What ${person.username} may do`}
              value={person.role as Role}
              options={ROLES}
              onChange={(role) => void attempt(changeRole(person.id, role))}
            />
          )}
        </span>
        <span className="figure px-4 text-small">{at ? `${day(at)} ${clock(at)}` : 'never'}</span>
        <span className="px-3 text-right">
          <Button size={24} aria-expanded={chosen} onClick={() => onChoose(!chosen)}>
            {person.removed ? 'Take back' : 'Change'}
          </Button>
        </span>
      </div>
      {chosen && <Actions person={person} onDone={() => onChoose(false)} />}
    </li>
  )
}

/** A new password, an end to the sessions, or to the person's coming at all. */
function Actions({ person, onDone }: { person: Row; onDone: () => void }) {
  const name = person.username
  const done = async (action: Promise<void>, words: string) => {
    await action
    say(words)
    onDone()
  }
  return (
    <div className="grid grid-cols-[272px_1fr] gap-8 border-t border-rule bg-paper px-4 py-3">
      <Form
        label={`New password of ${name}`}
        action={person.removed ? 'Take back with this password' : 'Give this password'}
        onSubmit={({ password = '' }) =>
          done(givePassword(person.id, password), `${name} signs in with the new password now.`)
        }
      >
        <TextField
          name="password"
          label="New password, eight characters or more"
          type="password"
          autoComplete="new-password"
          required
        />
      </Form>
      {!person.removed && (
        <div className="flex flex-col items-start gap-2">
          <Button
            onClick={() =>
              void attempt(done(endSessions(person.id), `${name} is signed out everywhere.`))
            }
          >
            Sign {name} out everywhere
          </Button>
          <ConfirmedButton
            action={`Remove ${name}`}
            size={28}
            warning={`${name} is signed out and cannot come back in; the ledger keeps the name.`}
            onConfirm={() => void attempt(done(removePerson(person.id), `${name} is removed.`))}
          />
        </div>
      )}
    </div>
  )
}
