import { computed, type WritableComputedRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'

// several changes of one moment go into one address
let waiting: Record<string, string | undefined> = {}
let asked = false

/** A word of the page that lives in its address (a filter, an order): Back and reload keep it. */
export function useAddress(key: string, usual = ''): WritableComputedRef<string> {
  const route = useRoute()
  const router = useRouter()
  return computed({
    get: () => String(route.query[key] ?? usual),
    set(value) {
      waiting[key] = value === usual ? undefined : value
      if (asked) return
      asked = true
      queueMicrotask(() => {
        asked = false
        const next = { ...route.query, ...waiting }
        waiting = {}
        for (const k of Object.keys(next)) if (next[k] === undefined) delete next[k]
        void router.replace({ path: route.path, query: next, hash: route.hash })
      })
    },
  })
}
