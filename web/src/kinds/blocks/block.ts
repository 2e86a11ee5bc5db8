import type { ReactNode } from 'react'

import type { Report } from '../../api/client'

export type Block = Report['blocks'][number]
export type BlockOf<K extends Block['kind']> = Extract<Block, { kind: K }>

export interface BlockFormProps<B extends Block = Block> {
  block: B
  disabled: boolean
  onSave: (block: B) => Promise<unknown>
}

/** How the Report page edits one kind of block. */
export interface BlockKind<B extends Block = Block> {
  Form: (props: BlockFormProps<B>) => ReactNode
}
