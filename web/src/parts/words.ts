import { computed, shallowRef } from 'vue'
import { api, take } from '../api/client'
import { useHome } from '../api/queries'

const LOCALE = 'en-GB'

const known = shallowRef<Record<string, Record<string, string>>>({})
const AGAIN_MS = 3000
/** Words for the codes in the larder's answers: asked before the page is drawn, and again until told. */
export async function learnWords() {
  try {
    known.value = await take(api.GET('/api/words'))
  } catch (error) {
    setTimeout(() => void learnWords().catch(() => undefined), AGAIN_MS)
    throw error
  }
}
export const word = (of: string, code: string | null | undefined) => known.value[of]?.[code ?? ''] ?? ''
export const wordsOf = (of: string) => known.value[of] ?? {}

export const percent = (share: number) => `${Math.round(100 * share)} %`
export const likely = (x: { low: number; high: number }) =>
  `likely ${Math.round(100 * x.low)}–${Math.round(100 * x.high)}`
export const tenths = (share: number) => `about ${Math.round(10 * share)} in 10`

export function day(s: number, withYear = false): string {
  const date = new Date(s * 1000)
  const year = withYear || date.getFullYear() !== new Date().getFullYear()
  return date.toLocaleDateString(LOCALE, {
    day: 'numeric',
    month: 'short',
    year: year ? 'numeric' : undefined,
  })
}
export const iso = (s: number) => new Date(s * 1000).toISOString().slice(0, 10)
export const year = (s: number) => String(new Date(s * 1000).getFullYear())

/** A number of seeds or units as people say it: no false precision. */
export function amount(n: number): string {
  if (n >= 10_000) return `${Math.round(n / 1000)} 000`
  if (n >= 1000) return `${Math.floor(n / 1000)} ${String(Math.round(n % 1000)).padStart(3, '0')}`
  if (n >= 100 || Number.isInteger(n)) return String(Math.round(n))
  return n >= 10 ? n.toFixed(0) : n.toFixed(1)
}

/** Units of the household, for the edges of the screen. */
export function useUnits() {
  const home = useHome()
  const fahrenheit = computed(() => home.data.value?.household.temperature_unit === 'F')
  return {
    unit: computed(() => (fahrenheit.value ? '°F' : '°C')),
    temperature(c: number | null | undefined): string {
      if (c === null || c === undefined) return '–'
      const value = fahrenheit.value ? c * 1.8 + 32 : c
      return `${value.toFixed(fahrenheit.value ? 0 : 1)} ${fahrenheit.value ? '°F' : '°C'}`.replace('-', '−')
    },
    number(c: number): number {
      return fahrenheit.value ? c * 1.8 + 32 : c
    },
  }
}

export function seedsWords(line: { seeds?: number | null; mass_g?: number | null }): string {
  if (line.seeds === null || line.seeds === undefined) return 'not counted'
  if (line.seeds < 0.5) return 'none left'
  if (line.seeds > 300 && line.mass_g) {
    return line.mass_g >= 1000 ? `${(line.mass_g / 1000).toFixed(1)} kg` : `${amount(line.mass_g)} g`
  }
  return `${amount(Math.round(line.seeds))} seeds`
}
