import { computed } from 'vue'
import { useHome } from '../api/queries'

/** The one time axis that all strips share, the household's day and the level it sows at. */
export function useAxis() {
  const home = useHome()
  const nowS = computed(() => Date.parse(home.data.value?.today ?? new Date().toISOString()) / 1000)
  const thisYear = computed(() => new Date(nowS.value * 1000).getUTCFullYear())
  return {
    level: computed(() => home.data.value?.household.sow_level ?? 0.7),
    nowS,
    thisYear,
    fromS: computed(() => Date.UTC(thisYear.value - 3, 0, 1) / 1000),
    toS: computed(() => Date.UTC(thisYear.value + 7, 0, 1) / 1000),
    years: computed(() => Array.from({ length: 10 }, (_, i) => thisYear.value - 3 + i)),
  }
}
