import { computed, ref, type WritableComputedRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'

/** How many dialogs stand open: the keys of the page are silent meanwhile. */
export const sheetsOpen = ref(0)

/** Which sheet of a page is open, kept in the address: Back closes it, a link opens it. */
export function useSheet<T extends string = string>(key = 'do'): WritableComputedRef<T | ''> {
  const route = useRoute()
  const router = useRouter()
  let ours = false // we put it into the history ourselves, so Back takes it out again
  return computed({
    get: () => (route.query[key] ?? '') as T | '',
    set(name) {
      if (name === (route.query[key] ?? '')) return
      const rest = { ...route.query }
      delete rest[key]
      if (name && !route.query[key]) {
        ours = true
        void router.push({ path: route.path, query: { ...rest, [key]: name } })
      } else if (name) void router.replace({ path: route.path, query: { ...rest, [key]: name } })
      else if (ours) {
        ours = false
        router.back()
      } else void router.replace({ path: route.path, query: rest })
    },
  })
}
/** One of the sheets of `useSheet`, as open or not. */
export const isSheet = (sheet: { value: string }, name: string) =>
  computed({
    get: () => sheet.value === name,
    set: (open) => (sheet.value = open ? name : ''),
  })
