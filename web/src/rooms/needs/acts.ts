import { api, take, type Schemas } from '../../api/client'

/** What one does in Needs. */
export const setFood = (body: Schemas['TargetIn']) => take(api.POST('/api/needs/foods', { body }))
export const takeOff = (line: { target_id?: number | null; pick_id?: number | null }) =>
  line.target_id
    ? take(api.DELETE('/api/needs/foods/{target_id}', { params: { path: { target_id: line.target_id } } }))
    : take(api.DELETE('/api/needs/picks/{pick_id}', { params: { path: { pick_id: line.pick_id ?? 0 } } }))
export const countPantry = (product: string, units: number) =>
  take(api.POST('/api/needs/pantry', { body: { product, kind: 'counted', units } }))
export const overrule = (target_id: number, link: string, value: number | null) =>
  take(
    api.PUT('/api/needs/foods/{target_id}/links', {
      params: { path: { target_id } },
      body: { link, value, note: '' },
    }),
  )
