import { client, got } from '../api/client'
import { queryClient, sessionQuery, welcomeQuery } from '../api/queries'
import { Form, TextField } from '../ui/Form'
import { Mark } from '../ui/Icon'

/** An empty installation: whoever started it becomes its first engineer. */
export function FirstPerson() {
  return (
    <main className="grid h-full place-items-center bg-well">
      <div className="w-90 rounded border border-rule bg-sheet p-8">
        <Mark />
        <h1 className="mt-3 text-head leading-6">Yoke Bench</h1>
        <p className="mb-4 text-soft">
          Nobody can sign in yet. Become its first engineer: the code stands where it was started.
        </p>
        <Form
          label="First engineer"
          action="Come in"
          onSubmit={async ({ code = '', username = '', password = '' }) => {
            const body = { code, username, password }
            const person = await got(client.POST('/api/first-person', { body }))
            queryClient.setQueryData(welcomeQuery.queryKey, { empty: false })
            queryClient.setQueryData(sessionQuery.queryKey, person)
          }}
        >
          <TextField name="code" label="Code" required autoFocus />
          <TextField name="username" label="Name" required autoComplete="username" />
          <TextField
            name="password"
            label="Password"
            type="password"
            required
            autoComplete="new-password"
          />
        </Form>
      </div>
    </main>
  )
}
