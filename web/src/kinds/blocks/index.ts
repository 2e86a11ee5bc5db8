import type { Block, BlockKind } from './block'
import { paragraph } from './paragraph'

/** Blocks of which people edit something; a new one adds a folder and a line here. */
const BLOCKS: Record<string, unknown> = { paragraph }

/** Add a kind; gives what takes it away again. */
export function addBlockKind(name: string, kind: unknown): () => void {
  BLOCKS[name] = kind
  return () => delete BLOCKS[name]
}

/** How a block is edited; undefined for one of which nothing can be. */
export const blockKind = (block: Block): BlockKind | undefined =>
  BLOCKS[block.kind] as BlockKind | undefined
