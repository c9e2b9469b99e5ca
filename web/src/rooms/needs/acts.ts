import { api, chosen, sendFile, take, type Schemas } from '../../api/client'

/** What one does in Needs. */
type Food = Omit<Schemas['TargetIn'], 'anyway' | 'eaten_by'> & { anyway?: boolean; eaten_by: string }
export const setFood = (body: Food) =>
  take(api.POST('/api/needs/foods', { body: { anyway: false, ...body, eaten_by: chosen(body.eaten_by) } }))
export const takeOff = (line: { target_id?: number | null; pick_id?: number | null }) =>
  line.target_id
    ? take(api.DELETE('/api/needs/foods/{target_id}', { params: { path: { target_id: line.target_id } } }))
    : take(api.DELETE('/api/needs/picks/{pick_id}', { params: { path: { pick_id: line.pick_id ?? 0 } } }))
export const countPantry = (product: string, units: number) =>
  take(api.POST('/api/needs/pantry', { body: { product, kind: 'counted', units } }))
export const overrule = (target_id: number, link: string, value: number | null, note = '') =>
  take(
    api.PUT('/api/needs/foods/{target_id}/links', {
      params: { path: { target_id } },
      body: { link: chosen(link), value, note },
    }),
  )
export const pullList = () => take(api.GET('/api/needs/pull'))
export const allStars = () => take(api.GET('/api/needs/stars'))
export const setState = (lot_ids: number[], state: 'here' | 'fetched') =>
  take(api.POST('/api/stock/many', { body: { what: 'state', lot_ids, state, anyway: false } }))
export const star = (lot_id: number, plants: number, anyway: boolean) =>
  take(api.POST('/api/needs/picks', { body: { lot_id, plants, purpose: 'table', note: '', anyway } }))
export const unstar = (pick_id: number) =>
  take(api.DELETE('/api/needs/picks/{pick_id}', { params: { path: { pick_id } } }))
export const theBasket = () => take(api.GET('/api/needs/basket'))
export const sayOffer = (body: Schemas['OfferSaid']) => take(api.POST('/api/needs/basket/offers', { body }))
export const dropOffer = (offer_id: number) =>
  take(api.DELETE('/api/needs/basket/offers/{offer_id}', { params: { path: { offer_id } } }))
export const bringList = (file: File) => sendFile('/api/needs/basket/list', file)
export const wish = (body: Schemas['WishIn']) => take(api.POST('/api/needs/basket/wishes', { body }))
export const dropWish = (wish_id: number) =>
  take(api.DELETE('/api/needs/basket/wishes/{wish_id}', { params: { path: { wish_id } } }))
export const setBudget = (money: number | null) =>
  take(api.PUT('/api/needs/basket/budget', { body: { money } }))
export const orderSeed = (packs: Record<string, number>) =>
  take(api.POST('/api/needs/basket/orders', { body: { packs } }))
export const orderCame = (order_ids: number[], node_id: number | null) =>
  take(api.POST('/api/needs/basket/orders/came', { body: { order_ids, node_id } }))
export const neverCame = (order_id: number) =>
  take(api.POST('/api/needs/basket/orders/{order_id}/never', { params: { path: { order_id } } }))
export const thePantry = () => take(api.GET('/api/needs/pantry'))
export const bookPantry = (product: string, kind: string, units: number) =>
  take(api.POST('/api/needs/pantry', { body: { product, kind: chosen(kind), units } }))
export const lastYear = () => take(api.GET('/api/needs/foods/last-year'))
export const takeOver = (foods: Schemas['TakenOver'][]) =>
  take(api.POST('/api/needs/foods/take-over', { body: { foods } }))
export const varietiesOf = (crop: string) =>
  take(api.GET('/api/needs/varieties', { params: { query: { crop } } }))
export const harvestsOf = (crop: string) =>
  take(api.GET('/api/needs/harvests', { params: { query: { crop } } }))
export const noteHarvest = (body: Schemas['HarvestIn']) => take(api.POST('/api/needs/harvests', { body }))
export const dropHarvest = (harvest_id: number) =>
  take(api.DELETE('/api/needs/harvests/{harvest_id}', { params: { path: { harvest_id } } }))
export const setJars = (litres: number, owned: number, lids: number) =>
  take(api.PUT('/api/needs/jars', { body: { litres, owned, lids } }))
export const setRoom = (values: Record<string, unknown>, version?: number) =>
  take(api.PATCH('/api/household', { body: { values, version } }))
export const wantLess = (shares: Schemas['GivenUp'][]) =>
  take(api.POST('/api/needs/foods/less', { body: { shares } }))
/** A food as it stands, for a form that changes one thing of it. */
export const asAsked = (l: Schemas['ChainLine']) => ({
  product: l.product, name: l.name, crop: l.crop, per_week: l.per_week, weeks: l.weeks, unit: '',
  gifts: l.gifts, reserve_share: l.reserve_share, every_years: l.every_years, sure: l.sure,
  jar_litres: l.jar_litres, eaten_by: l.eaten_by, shares: null, target_id: l.target_id ?? null, version: l.version,
}) // prettier-ignore
