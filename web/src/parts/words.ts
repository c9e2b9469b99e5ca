import { shallowRef } from 'vue'
import { api, take } from '../api/client'
import { decimalOf, mass, waysOf, type Ways } from './units'

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
type Likely = { low: number; mid: number; high: number; step?: number }
const nearest = (share: number, step: number) => Math.floor((100 * share + step / 2) / step) * step
/** The middle of what is believed, no surer than its range: 89 %, about 85 %, roughly 40 %. */
export function middle(mid: number, step = 1): string {
  if (step === 1) return `${nearest(mid, 1)} %`
  const told = nearest(mid, step)
  if (told <= 0) return `under ${step} %`
  if (told >= 100) return `over ${100 - step} %`
  return `${step === 5 ? 'about' : 'roughly'} ${told} %`
}
export const likely = (x: Likely) => `likely ${nearest(x.low, x.step ?? 1)}–${nearest(x.high, x.step ?? 1)}`
/** Both: about 85 %, likely 75–95. */
export const believed = (x: Likely) => `${middle(x.mid, x.step)}, ${likely(x)}`
export const tenths = (share: number) =>
  share < 0.02 ? 'next to none' : share < 0.1 ? 'fewer than 1 in 10' : `about ${Math.round(10 * share)} in 10`

// days, numbers and weights are those of the household, wherever the browser stands
let zone: string | undefined
const ways = shallowRef<Ways>(waysOf(undefined))
let thisYear: string | undefined
export function writeLike(household: Parameters<typeof waysOf>[0] & { tz?: string }, today?: string) {
  zone = household.tz
  thisYear = today?.slice(0, 4)
  ways.value = waysOf(household)
}
/** English words in the household's order: 24 Nov or Nov 24. */
const days = () => (ways.value.locale === 'en-US' ? 'en-US' : 'en-GB')
const formats = new Map<string, Intl.DateTimeFormat>()
/** A way to write days, made once: making one takes longer than writing a hundred. */
function format(locale: string, options: Intl.DateTimeFormatOptions) {
  const key = locale + JSON.stringify(options)
  const made = formats.get(key) ?? new Intl.DateTimeFormat(locale, options)
  formats.set(key, made)
  return made
}
/** A day of the calendar (no clock in it) as people say it. */
export const dateWords = (date: string | Date, options: Intl.DateTimeFormatOptions) =>
  format(days(), { timeZone: 'UTC', ...options }).format(new Date(date))
/** The months by their names, from January. */
export const monthNames = () =>
  Array.from({ length: 12 }, (_, m) => dateWords(new Date(Date.UTC(2026, m, 15)), { month: 'long' }))
/** The household's day of a moment, as 2026-11-24. */
export const iso = (s: number) =>
  format('en-CA', { timeZone: zone, year: 'numeric', month: '2-digit', day: '2-digit' }).format(s * 1000)
export const year = (s: number) => iso(s).slice(0, 4)
export function day(s: number, withYear = false): string {
  const shown = withYear || year(s) !== (thisYear ?? year(Date.now() / 1000))
  const options = {
    timeZone: zone,
    day: 'numeric',
    month: 'short',
    year: shown ? 'numeric' : undefined,
  } as const
  return format(days(), options).format(s * 1000)
}

const grouped = (n: number) => n.toLocaleString(ways.value.locale)
/** A number of seeds or units as people say it: whole from ten on, two figures above a thousand. */
export function amount(n: number): string {
  if (n >= 1000) {
    const step = 10 ** (String(Math.round(n)).length - 2)
    const rough = Math.round(n / step) * step
    return rough === Math.round(n) ? grouped(rough) : `about ${grouped(rough)}`
  }
  return n >= 10 || Number.isInteger(n)
    ? String(Math.round(n))
    : n.toFixed(1).replace('.', decimalOf(ways.value.locale))
}
/** Both ends of a range with the same precision: 7–53, never 6.9–53. */
export function range(low: number, high: number): string {
  if (high >= 10) return `${amount(Math.round(low))}–${amount(Math.round(high)).replace('about ', '')}`
  return `${amount(low)}–${amount(high)}`
}
/** So many of something: 1 lot, 2 lots. */
export const many = (n: number, one: string, more = `${one}s`) => `${n} ${n === 1 ? one : more}`
const YEARS_TOLD = 5 // further apart the middle of two years says more than is known
/** Until when seed is good: 2034, likely 2031–36; only the range where it is wide. */
export function until(g: {
  good_until_s?: number | null
  good_until_low_s?: number | null
  good_until_high_s?: number | null
}): string {
  if (!g.good_until_s) return 'longer than can be said'
  const about = year(g.good_until_s)
  if (!g.good_until_low_s) return about
  const low = year(g.good_until_low_s)
  if (!g.good_until_high_s) return `${about}, likely ${low} or later`
  const high = year(g.good_until_high_s)
  if (low === high) return about
  const span = `likely ${low}–${high.startsWith(low.slice(0, 2)) ? high.slice(2) : high}`
  return Number(high) - Number(low) > YEARS_TOLD ? span : `${about}, ${span}`
}

/** How much there is: seeds, or tubers, cloves and plants by what one of them is called. */
export function seedsWords(line: { seeds?: number | null; mass_g?: number | null; unit?: string }): string {
  const unit = line.unit ?? 'seed'
  if (line.seeds === null || line.seeds === undefined) return 'not counted'
  if (line.seeds < 0.5) return 'none left'
  if (unit === 'seed' && line.seeds > 300 && line.mass_g) {
    return mass(line.mass_g, ways.value)
  }
  const n = Math.round(line.seeds)
  return n === 1 ? `1 ${unit}` : `${amount(n)} ${unit}s`
}
