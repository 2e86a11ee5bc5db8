import { useQuery } from '@tanstack/react-query'
import { DropdownMenu } from 'radix-ui'
import { useNavigate } from 'react-router'

import { signOut } from '../api/actions'
import { sessionQuery, useMay } from '../api/queries'
import { Icon } from '../ui/Icon'
import { setTheme, useTheme } from '../ui/theme'

const ITEM =
  'flex h-8 cursor-pointer items-center rounded px-2.5 outline-none data-[highlighted]:bg-petrol-wash'

export function PersonMenu() {
  const person = useQuery(sessionQuery).data
  const theme = useTheme()
  const go = useNavigate()
  const keepsPeople = useMay('manage people')
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="flex h-full items-center gap-2 border-l border-rule px-3.5">
        {person?.name}
        <Icon name="down" size={10} />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={4}
          className="z-40 w-50 rounded border border-rule bg-sheet p-1.5 shadow-lifted"
        >
          <DropdownMenu.Item
            className={ITEM}
            onSelect={() => setTheme(theme === 'night' ? 'day' : 'night')}
          >
            {theme === 'night' ? 'Day colours' : 'Night colours'}
          </DropdownMenu.Item>
          <DropdownMenu.Item className={ITEM} onSelect={() => void go('/people')}>
            {keepsPeople ? 'People, password, messages' : 'Password and messages'}
          </DropdownMenu.Item>
          <DropdownMenu.Item className={ITEM} onSelect={() => void signOut()}>
            Sign out
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}
