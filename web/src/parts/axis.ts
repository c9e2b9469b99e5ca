import { computed } from 'vue'
import { useHome } from '../api/queries'

/** From when to when, in seconds, where today stands on it, and the level that is sown at. */
export type Axis = { fromS: number; toS: number; nowS: number; level: number }

/** The one time axis that all strips share, the household's day and the level it sows at. */
export function useAxis() {
  const home = useHome()
  const nowS = computed(() => Date.parse(home.data.value?.today ?? new Date().toISOString()) / 1000)
  const thisYear = computed(() => new Date(nowS.value * 1000).getUTCFullYear())
  const level = computed(() => home.data.value?.household.sow_level ?? 0.7)
  const axis = computed<Axis>(() => ({
    fromS: Date.UTC(thisYear.value - 3, 0, 1) / 1000,
    toS: Date.UTC(thisYear.value + 7, 0, 1) / 1000,
    nowS: nowS.value,
    level: level.value,
  }))
  return {
    axis,
    level,
    nowS,
    thisYear,
    years: computed(() => Array.from({ length: 10 }, (_, i) => thisYear.value - 3 + i)),
  }
}
