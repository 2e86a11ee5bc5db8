import { useState } from 'react'

import { defineUnit } from '../../api/actions'
import { Form, TextField } from '../../ui/Form'

/** A unit of the laboratory's own, by a formula of units that are known. */
export function OwnUnit({ quantity, usual }: { quantity: string; usual: string }) {
  const [open, show] = useState(false)
  if (!open)
    return (
      <button
        type="button"
        onClick={() => show(true)}
        className="my-1 border-b border-dotted border-soft text-small text-soft"
      >
        Define a unit of our own…
      </button>
    )
  return (
    <div className="border-t border-rule py-2">
      <Form
        label="A unit of our own"
        action="Define it"
        onSubmit={async ({ name = '', definition = '' }) => {
          await defineUnit(name, quantity, definition)
          show(false)
        }}
        onCancel={() => show(false)}
      >
        <TextField name="name" label="Name" required autoFocus />
        <TextField name="definition" label={`One of it is, such as 4.45 ${usual}`} required />
      </Form>
    </div>
  )
}
