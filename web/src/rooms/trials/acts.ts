import { api, take, type Schemas } from '../../api/client'

/** What one does in Tests. */
export const MEDIA = {
  paper: 'damp paper, flat box',
  rolled: 'rolled paper',
  top: 'on top of paper',
  sand: 'sand',
  compost: 'compost',
}
export const takeFigure = (o: Schemas['Offer']) =>
  take(
    api.POST('/api/crops/overrule', {
      body: { crop: o.kind, field: o.field, value: o.offered, source: 'tests of this house' },
    }),
  )
export const setSpots = (body: Schemas['SpotSaid'][]) => take(api.PUT('/api/tests/spots', { body }))
const of = (trial_id: number) => ({ params: { path: { trial_id } } })
export const startTest = (body: Schemas['StartIn']) => take(api.POST('/api/tests', { body }))
export const pastTest = (body: Schemas['PastIn']) => take(api.POST('/api/tests/past', { body }))
export const toldTest = (body: Schemas['ToldIn']) => take(api.POST('/api/tests/told', { body }))
export const countTest = (trial: number, body: Schemas['CountIn']) =>
  take(api.POST('/api/tests/{trial_id}/counts', { ...of(trial), body }))
export const dropTest = (trial: number, why: string) =>
  take(api.POST('/api/tests/{trial_id}/drop', { ...of(trial), body: { why } }))
