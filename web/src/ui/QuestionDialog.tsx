import { Dialog } from 'radix-ui'

import { Form, TextField } from './Form'
import { givenBefore, useQuestions } from './questions'

/** Asks what somebody must tell before something is done; Esc leaves it undone. */
export function QuestionDialog() {
  const asked = useQuestions()
  return (
    <Dialog.Root open={!!asked} onOpenChange={(open) => !open && asked?.answer(null)}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/20" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-15 left-1/2 z-50 w-100 -translate-x-1/2 rounded border border-rule bg-sheet p-5 shadow-lifted"
        >
          <Dialog.Title className="pb-3 text-large">{asked?.title}</Dialog.Title>
          {asked && (
            <Form
              label={asked.title}
              action={asked.action}
              onCancel={() => asked.answer(null)}
              onSubmit={async (fields) => asked.answer(fields)}
            >
              {asked.names.map((name, i) => (
                <TextField
                  key={name}
                  name={name}
                  label={name}
                  value={givenBefore(name)}
                  required
                  autoFocus={i === 0}
                />
              ))}
            </Form>
          )}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  )
}
