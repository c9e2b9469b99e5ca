import { api, chosen, take, type Schemas } from '../../api/client'

/** What one does in Stock, each one call; who is asked first gets `anyway`. */
type Id = { lot_id: number }
const of = (lot_id: number) => ({ params: { path: { lot_id } } })
export type Many =
  | Schemas['MoveMany']
  | Schemas['StateMany']
  | Schemas['PickMany']
  | Schemas['SowMany']
  | Schemas['EventMany']
  | Schemas['TagMany']
  | Schemas['MeantMany']
  | Schemas['TestMany']
  | Schemas['HouseMany']
  | Schemas['SinceMany']

/** One thing done with one packet or with many: all or nothing, one take-back. */
export const together = (body: Many) => take(api.POST('/api/stock/many', { body }))
export const bookQuantity = (lot: number, body: Schemas['QuantityIn']) =>
  take(api.POST('/api/stock/lots/{lot_id}/quantity', { ...of(lot), body }))
export const changeLot = (lot: number, body: Schemas['LotEdit']) =>
  take(api.PATCH('/api/stock/lots/{lot_id}', { ...of(lot), body }))
export const splitLot = (lot: number, body: Schemas['SplitIn']) =>
  take(api.POST('/api/stock/lots/{lot_id}/split', { ...of(lot), body }))
export const pourInto = (lot: number, other_ids: number[], anyway: boolean) =>
  take(api.POST('/api/stock/lots/{lot_id}/merge', { ...of(lot), body: { other_ids, anyway } }))
export const setAside = (lot: number, intended_use: string, amount: string) =>
  take(api.POST('/api/stock/lots/{lot_id}/aside', { ...of(lot), body: { intended_use, amount } }))
export const weigh = (lot: number, count: number, mass_g: number) =>
  take(api.POST('/api/stock/lots/{lot_id}/weigh', { ...of(lot), body: { count, mass_g } }))
export const addPackets = (packets: Schemas['NewSeeds'][], anyway: boolean) =>
  take(api.POST('/api/stock/lots', { body: { packets, anyway } }))
export const addKind = (body: Schemas['OwnKindIn']) => take(api.POST('/api/kinds', { body }))
export const keepView = (body: Omit<Schemas['ViewIn'], 'group'> & { group: string }) =>
  take(api.POST('/api/stock/views', { body: { ...body, group: chosen(body.group) } }))
export const decide = (lot_id: number, decision: string) =>
  take(api.POST('/api/stock/triage', { body: { lot_id, decision: chosen(decision) } }))
export const decideBy = (school: string) =>
  take(api.POST('/api/stock/school', { body: { school: chosen(school) } }))
export const bringSheet = (body: Schemas['TableIn']) => take(api.POST('/api/stock/sheet', { body }))

const takes = (stocktake_id: number) => ({ params: { path: { stocktake_id } } })
export const beginStocktake = (node_id: number) =>
  take(api.POST('/api/stock/stocktakes/nodes/{node_id}', { params: { path: { node_id } } }))
export const markFound = (
  id: number,
  body: Omit<Schemas['MarkIn'], 'result' | 'condition'> & Id & { result: string; condition: string },
) =>
  take(
    api.POST('/api/stock/stocktakes/{stocktake_id}/lots', {
      ...takes(id),
      body: { ...body, result: chosen(body.result), condition: chosen(body.condition) },
    }),
  )
export const takeIn = (id: number, code: string) =>
  take(api.POST('/api/stock/stocktakes/{stocktake_id}/code', { ...takes(id), body: { code } }))
export const leaveOff = (id: number) =>
  take(api.POST('/api/stock/stocktakes/{stocktake_id}/pause', takes(id)))
export const finishStocktake = (id: number, rest: string) =>
  take(
    api.POST('/api/stock/stocktakes/{stocktake_id}/finish', { ...takes(id), body: { rest: chosen(rest) } }),
  )
