import { computed } from 'vue'
import { useShelves } from '../../api/queries'

/** Where seed can stand, and what such a place is called. */
export function usePlaces() {
  const shelves = useShelves()
  const all = computed(() => (shelves.data.value ?? []).flatMap((s) => [s.place, ...s.boxes]))
  return {
    all,
    containers: computed(() => (shelves.data.value ?? []).flatMap((s) => s.boxes)),
    path: (node: number | null) => all.value.find((b) => b.node_id === node)?.path ?? '',
  }
}
