/** The packets that a form is about: one, or many that were chosen. */
export type Named = { lot_id: number; code: string; variety: string; node_id?: number | null; unit?: string }
export const called = (lots: Named[]) => {
  const [one] = lots
  if (!one) return 'nothing'
  if (lots.length === 1) return `${one.code} ${one.variety}`
  const codes = lots.slice(0, 4).map((l) => l.code).join(', ') // prettier-ignore
  return `${lots.length} packets (${codes}${lots.length > 4 ? ' …' : ''})`
}
export const ids = (lots: Named[]) => lots.map((l) => l.lot_id)
export const EVENTS = [
  'wet',
  'mould',
  'sprouted',
  'insects',
  'rodents',
  'spilled',
  'treated',
  'note',
] as const
export const PURPOSES = ['table', 'joy', 'bees', 'soil', 'gift', 'trial'] as const
export const USES = ['seed', 'food', 'shoots', 'sale', 'swap'] as const
export const SOURCES = { bought: 'bought', own: 'own saved', gift: 'a gift', unknown: 'who knows' }
export const SURE = { '': 'as said', counted: 'counted', about: 'about', guess: 'a guess' }
