/** Inside all is °C, grams, metres; these turn them into what the household writes, and back. */
export type Ways = {
  temperature: 'C' | 'F'
  mass: 'g' | 'oz'
  volume: 'l' | 'qt'
  length: 'm' | 'ft'
  locale: string
  firstWeekday: number
}
export const GRAMS = { g: 1, kg: 1000, oz: 28.349523125, lb: 453.59237 } as const
const METRES = { m: 1, ft: 0.3048 } as const

type Household = {
  temperature_unit?: string
  mass_unit?: string
  volume_unit?: string
  length_unit?: string
  locale?: string
  first_weekday?: number
}
export const waysOf = (h: Household | undefined): Ways => ({
  temperature: h?.temperature_unit === 'F' ? 'F' : 'C',
  mass: h?.mass_unit === 'oz' ? 'oz' : 'g',
  volume: h?.volume_unit === 'qt' ? 'qt' : 'l',
  length: h?.length_unit === 'ft' ? 'ft' : 'm',
  locale: h?.locale ?? 'en-GB',
  firstWeekday: h?.first_weekday ?? 1,
})
export const decimalOf = (locale: string) => (locale === 'de-DE' ? ',' : '.')
const ORDERS: Record<string, string> = { 'en-US': 'MM/DD/YYYY', 'de-DE': 'DD.MM.YYYY' }
export const dateFormat = (w: Ways) => ORDERS[w.locale] ?? 'DD/MM/YYYY'
export const degree = (w: Ways) => (w.temperature === 'F' ? '°F' : '°C')
export const smallMass = (w: Ways) => w.mass
export const bigMass = (w: Ways) => (w.mass === 'oz' ? 'lb' : 'kg')
export const degrees = (c: number, w: Ways) => (w.temperature === 'F' ? c * 1.8 + 32 : c)
export const celsius = (typed: number, w: Ways) => (w.temperature === 'F' ? (typed - 32) / 1.8 : typed)

const sign = (text: string, w: Ways) => text.replace('-', '−').replace('.', decimalOf(w.locale))
export function temperature(c: number | null | undefined, w: Ways): string {
  if (c === null || c === undefined) return '–'
  return `${sign(degrees(c, w).toFixed(w.temperature === 'F' ? 0 : 1), w)} ${degree(w)}`
}
/** Two figures are enough for a weight; the larger unit from one of it on. */
export function mass(g: number, w: Ways): string {
  const big = bigMass(w)
  const unit = g >= GRAMS[big] ? big : smallMass(w)
  const value = g / GRAMS[unit]
  const digits = value >= 10 ? 0 : value >= 1 ? 1 : 2
  return `${sign(String(Number(value.toFixed(digits))), w)} ${unit}`
}
export function perMass(seedsPerG: number, w: Ways): string {
  const n = seedsPerG * GRAMS[smallMass(w)]
  const shown = n < 10 ? sign(n.toFixed(1), w) : Math.round(n).toLocaleString(w.locale)
  return `${shown} to the ${w.mass === 'oz' ? 'ounce' : 'gram'}`
}
export function distance(m: number, w: Ways): string {
  const value = m / METRES[w.length]
  const step = value >= 100 ? 10 : value >= 10 ? 5 : 1
  return `${w.length === 'm' ? m : Math.round(value / step) * step} ${w.length}`
}

/** What is typed, as a plain number with a point: thousands out, the decimal sign turned. */
export function plainNumber(text: string, decimal: string): string {
  const tight = text.replace(/[\s'’]/g, '')
  const other = decimal === '.' ? ',' : '.'
  const grouped = new RegExp(`^-?\\d{1,3}(\\${other}\\d{3})+(\\${decimal}\\d*)?$`)
  const whole = grouped.test(tight) ? tight.replaceAll(other, '') : tight
  return whole.replace(',', '.')
}
export function readNumber(text: string, decimal: string): number | null {
  return text.trim() === '' ? null : Number(plainNumber(text.replace('%', ''), decimal))
}
export const writeNumber = (value: number | string | undefined, decimal: string) =>
  value === undefined || value === null ? '' : String(value).replace('.', decimal)

/** Products are counted in jars, kilos or litres; the last two are written in the household's units. */
const PRODUCT: Record<string, { ft: string; per: number }> = {
  kg: { ft: 'lb', per: GRAMS.lb / 1000 },
  litres: { ft: 'quarts', per: 0.946352946 },
}
const turned = (unit: string, w: Ways) =>
  (unit === 'kg' && w.mass === 'oz') || (unit === 'litres' && w.volume === 'qt') ? PRODUCT[unit] : undefined
export const productUnit = (unit: string, w: Ways) => turned(unit, w)?.ft ?? unit
export const productShown = (value: number, unit: string, w: Ways) => value / (turned(unit, w)?.per ?? 1)
export const productTyped = (typed: number, unit: string, w: Ways) => typed * (turned(unit, w)?.per ?? 1)
