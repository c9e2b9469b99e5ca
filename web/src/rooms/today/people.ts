import { computed } from 'vue'
import { useHome } from '../../api/queries'

/** Who a job can be handed to, to choose from. */
export function usePeople() {
  const home = useHome()
  return computed(() => (home.data.value?.people ?? []).map((p) => ({ value: p.id ?? 0, label: p.name })))
}
