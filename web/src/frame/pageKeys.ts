import { useHotkeys, type Options } from 'react-hotkeys-hook'

import { openFindOrDo } from './findState'

/**
 * Keys of a page: by the letter that they produce, on any keyboard. They are not heard while
 * somebody types or a dialog is open; a key that is held down, with a glove on it, counts once.
 */
export const PAGE_KEYS: Options = {
  useKey: true,
  enableOnFormTags: ['radio', 'slider', 'option', 'menuitem'],
  ignoreEventWhen: (event) => event.repeat || document.querySelector('[role=dialog]') !== null,
}

/** Also while somebody types. */
const ALWAYS: Options = {
  useKey: true,
  enableOnFormTags: true,
  enableOnContentEditable: true,
  ignoreEventWhen: (event) => event.repeat,
}

/** Ctrl K, on every page. */
export function useFindKey(): void {
  useHotkeys('mod+k', openFindOrDo, { ...ALWAYS, preventDefault: true })
}

/** Esc, before anybody else hears it. */
export function useEscape(act: (event: KeyboardEvent) => void): void {
  useHotkeys('escape', act, { ...ALWAYS, eventListenerOptions: { capture: true } })
}
