import { useInfiniteQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'

import { emergencyStopAll } from '../api/actions'
import { addPerson, changeOwnPassword, peopleQuery, ROLES } from '../api/people'
import { useMay } from '../api/queries'
import { useEscEsc } from '../frame/escEsc'
import { PersonMenu } from '../frame/PersonMenu'
import { Button } from '../ui/Button'
import { Section, Segments } from '../ui/Fact'
import { Form, SelectField, TextField } from '../ui/Form'
import { Mark } from '../ui/Icon'
import { say } from '../ui/notices'
import { SearchField } from '../ui/SearchField'
import { Messages } from './Messages'
import { PERSON_ROW, PersonRow } from './PersonRow'

const stopAll = () => void emergencyStopAll()

/** Who may sign in and as what, for engineers; and everybody's own password. */
export function People() {
  useEscEsc(stopAll)
  const may = useMay('manage people')
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)_264px] grid-rows-[44px_1fr]">
      <header className="col-span-2 flex items-center border-b border-rule bg-sheet">
        <Link
          to="/"
          aria-label="All projects"
          className="grid h-full w-22 place-items-center border-r border-rule"
        >
          <Mark />
        </Link>
        <h1 className="px-4">People</h1>
        <span className="ml-auto h-full">
          <PersonMenu />
        </span>
      </header>
      <main className="min-h-0 overflow-y-auto bg-well">
        {may ? (
          <List />
        ) : (
          <p className="p-6 text-soft">An engineer says who may sign in, and as what.</p>
        )}
      </main>
      <aside
        aria-label="Yourself"
        className="min-h-0 overflow-y-auto border-l border-rule bg-paper"
      >
        {may && <NewPerson />}
        <OwnPassword />
        <Messages />
      </aside>
    </div>
  )
}

function List() {
  const [which, setWhich] = useState<'may' | 'removed'>('may')
  const [search, setSearch] = useState('')
  const people = useInfiniteQuery(peopleQuery({ removed: which === 'removed', search }))
  const [first] = people.data?.pages ?? []
  const [chosen, setChosen] = useState<number | null>(null)
  if (people.isError)
    return (
      <p role="alert" className="p-4">
        The people could not be read. Load the page again.
      </p>
    )
  return (
    <>
      <div className="bar">
        <Segments
          label="Which people"
          value={which}
          onChange={setWhich}
          options={[
            ['may', `May sign in ${first?.may_sign_in ?? ''}`],
            ['removed', `Removed ${first?.removed ?? ''}`],
          ]}
        />
        <SearchField
          label="Search the people"
          placeholder="Name or role"
          value={search}
          onChange={setSearch}
          className="w-40"
        />
      </div>
      <div className={`${PERSON_ROW} border-b border-rule-strong bg-paper text-small text-soft`}>
        <span className="px-4 py-1">Name</span>
        <span className="px-4 py-1">May do</span>
        <span className="px-4 py-1">Last signed in</span>
        <span />
      </div>
      <ul>
        {people.data?.pages
          .flatMap((p) => p.items)
          .map((p) => (
            <PersonRow
              key={p.id}
              person={p}
              chosen={p.id === chosen}
              onChoose={(yes) => setChosen(yes ? p.id : null)}
            />
          ))}
      </ul>
      {first?.count === 0 && <p className="p-4 text-soft">Nobody.</p>}
      {people.hasNextPage && (
        <p className="p-4">
          <Button onClick={() => void people.fetchNextPage()}>More people</Button>
        </p>
      )}
    </>
  )
}

function NewPerson() {
  const [made, setMade] = useState(0)
  const [role, setRole] = useState<string>('technician')
  return (
    <Section title="Add a person">
      <Form
        key={made}
        label="Add a person"
        action="Add the person"
        onSubmit={async ({ username = '', password = '' }) => {
          const chosen = ROLES.find(([r]) => r === role)![0]
          await addPerson({ username, role: chosen, password })
          say(`${username} may sign in now.`)
          setMade(made + 1)
        }}
      >
        <TextField name="username" label="Name" required />
        <SelectField name="role" label="May do" value={role} onChange={setRole} options={ROLES} />
        <TextField
          name="password"
          label="First password, eight characters or more"
          type="password"
          autoComplete="new-password"
          required
        />
      </Form>
    </Section>
  )
}

function OwnPassword() {
  const [made, setMade] = useState(0)
  return (
    <Section title="Your password">
      <Form
        key={made}
        label="Your password"
        action="Change the password"
        onSubmit={async ({ old = '', new: fresh = '' }) => {
          await changeOwnPassword({ old, new: fresh })
          say('Your password is changed. Your other browsers are signed out.')
          setMade(made + 1)
        }}
      >
        <TextField
          name="old"
          label="Present password"
          type="password"
          autoComplete="current-password"
          required
        />
        <TextField
          name="new"
          label="New password, eight characters or more"
          type="password"
          autoComplete="new-password"
          required
        />
      </Form>
    </Section>
  )
}
