import type { Schemas } from '../../api/client'

export type Line = {
  kind: string
  variety: string
  date: string
  quantity: string
  sure: string
  source: string
  node_id: number | null
  section: string
  slot: string
  since: string
  stated_as: string
  types: string
  form: string
  tested: string
  tested_on: string
  stated: string
  packet_sow_window: string
  packet_depth_cm: string
  packet_days_to_sprout: string
  packet_days_to_harvest: string
  packet_count: string
  seller: string
  person_from: string
  price: string
  tags: string
  code: string
  note: string
  intended_use: string
  hybrid: boolean
  treated: boolean
  kept_line: boolean
  crossed_risk: boolean
  from_kitchen: boolean
}
export const blank = (): Line => ({
  kind: '', variety: '', date: '', quantity: '', sure: '', source: 'bought', node_id: null, section: '', slot: '', since: '',
  stated_as: '', types: '', form: '', tested: '', tested_on: '',
  stated: '', packet_sow_window: '', packet_depth_cm: '', packet_days_to_sprout: '', packet_days_to_harvest: '',
  packet_count: '', seller: '', person_from: '', price: '', tags: '', code: '', note: '', intended_use: 'seed',
  hybrid: false, treated: false, kept_line: false, crossed_risk: false, from_kitchen: false,
}) // prettier-ignore
/** What the next line takes over from the last one. */
export const REMEMBERED = [
  'source',
  'node_id',
  'since',
  'section',
  'date',
  'seller',
  'person_from',
  'sure',
] as const

const number = (text: string) => (text.trim() === '' ? null : Number(text.replace(',', '.').replace('%', '')))

/** A typed line as the larder takes it; ``depthCm`` turns a depth of the household's unit. */
export function packet(line: Line, depthCm: (typed: number) => number): Schemas['NewSeeds'] {
  const { stated, packet_depth_cm, packet_count, price, ...rest } = line
  const germination = number(stated)
  const depth = number(packet_depth_cm)
  return {
    ...rest,
    wrapper_kind: 'paper_envelope',
    as_typed: '',
    kind: line.kind.trim(),
    types: line.types || '', // a choice taken back leaves no text
    form: line.form || '',
    stated_germination: germination === null ? null : germination / 100,
    packet_depth_cm: depth === null ? null : depthCm(depth),
    packet_count: number(packet_count),
    price: number(price),
  }
}
