import { useStorage } from '@vueuse/core'
import { onScopeDispose, shallowRef } from 'vue'

/** Shortcuts of single keys can be switched off: on this device, for who dictates or mistypes. */
export const keysOn = useStorage('keys', true)

/** What `n` does in the room that is open; null where there is nothing new to make. */
export const newHere = shallowRef<{ words: string; act: () => void } | null>(null)
export function useNew(words: string, act: () => void) {
  const mine = { words, act }
  newHere.value = mine
  onScopeDispose(() => {
    if (newHere.value === mine) newHere.value = null
  })
}

/** Keys that a page has for itself, as the list of shortcuts tells them. */
export const pageKeys = shallowRef<[key: string, words: string][]>([])
export function usePageKeys(keys: [key: string, words: string][]) {
  pageKeys.value = keys
  onScopeDispose(() => {
    if (pageKeys.value === keys) pageKeys.value = []
  })
}
/** On pages where one types a row after the other single keys type and nothing else. */
const typingPages = shallowRef(0)
export function useSleepingKeys() {
  typingPages.value += 1
  onScopeDispose(() => (typingPages.value -= 1))
}
/** A key that is not meant for the page: while somebody types, with a modifier, or switched off. */
export const notForUs = (e: KeyboardEvent) =>
  !keysOn.value ||
  typingPages.value > 0 ||
  e.ctrlKey ||
  e.metaKey ||
  e.altKey ||
  (e.target instanceof HTMLElement &&
    (['INPUT', 'TEXTAREA', 'SELECT'].includes(e.target.tagName) || e.target.isContentEditable))
/**
 * A key on one of the rows (a selector) that are gone through by keyboard: arrows lead to the next and the
 * one before; `does` says whether another key was for it.
 */
export function walk(e: KeyboardEvent, rows: string, does: (key: string) => boolean) {
  if (e.target !== e.currentTarget || notForUs(e)) return
  const all = [...document.querySelectorAll<HTMLElement>(rows)]
  const at = all.indexOf(e.currentTarget as HTMLElement)
  if (e.key === 'ArrowDown') all[at + 1]?.focus()
  else if (e.key === 'ArrowUp') all[at - 1]?.focus()
  else if (!does(e.key)) return
  e.preventDefault()
  e.stopPropagation()
}
