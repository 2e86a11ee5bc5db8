import { useState, type FormEvent } from 'react'

import { client, got, ProblemError } from '../api/client'
import { queryClient, sessionQuery } from '../api/queries'
import { Button } from '../ui/Button'
import { Mark } from '../ui/Icon'

export function SignIn() {
  const [problem, setProblem] = useState<ProblemError | null>(null)
  const submit = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault()
    const form = new FormData(event.currentTarget)
    const body = { username: String(form.get('username')), password: String(form.get('password')) }
    try {
      queryClient.setQueryData(
        sessionQuery.queryKey,
        await got(client.POST('/api/session', { body })),
      )
    } catch (error) {
      setProblem(ProblemError.of(error))
    }
  }
  return (
    <main className="grid h-full place-items-center bg-well">
      <form onSubmit={submit} className="w-85 rounded border border-rule bg-sheet p-8">
        <Mark />
        <h1 className="mt-3 text-head leading-6">Yoke Bench</h1>
        <p className="mb-5 text-soft">Wire, calibrate, record, derive, report.</p>
        <Labelled name="username" label="Name" autoFocus />
        <Labelled name="password" label="Password" type="password" />
        {problem && (
          <p role="alert" className="mb-3 text-signal">
            <b className="font-strong">{problem.title}</b> {problem.hint}
          </p>
        )}
        <Button look="go" size={36} type="submit">
          Sign in
        </Button>
      </form>
    </main>
  )
}

function Labelled({
  name,
  label,
  ...rest
}: {
  name: string
  label: string
  type?: string
  autoFocus?: boolean
}) {
  return (
    <label className="mb-3 block text-soft">
      {label}
      <input
        name={name}
        required
        autoComplete={name === 'password' ? 'current-password' : 'username'}
        className="mt-1 block h-9 w-full rounded border border-rule-strong bg-paper px-2.5 text-large text-ink"
        {...rest}
      />
    </label>
  )
}
