import { useQuery } from '@tanstack/react-query'

import { changePreferences, preferencesQuery } from '../api/preferences'
import { Choice } from '../ui/Choice'
import { EditableText } from '../ui/Editable'
import { Section } from '../ui/Fact'

/** Whether one is told by e-mail what happens at the benches. */
export function Messages() {
  const mine = useQuery(preferencesQuery).data
  if (!mine) return null
  return (
    <Section title="Messages">
      <EditableText
        label="E-mail"
        value={mine.email}
        onSave={(email) => changePreferences({ email })}
      />
      <Choice
        label="Trips, gaps and ends"
        value={mine.mails ? 'mail' : 'none'}
        options={[
          ['none', 'no messages'],
          ['mail', 'by e-mail'],
        ]}
        onChoose={(how) => changePreferences({ mails: how === 'mail' })}
      />
    </Section>
  )
}
