import { api, chosen, take, type Schemas } from '../../api/client'

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
      body: { crop: o.kind, field: chosen(o.field), value: o.offered, source: 'tests of this house' },
    }),
  )
export const setSpots = (body: Schemas['SpotSaid'][]) => take(api.PUT('/api/tests/spots', { body }))
const of = (trial_id: number) => ({ params: { path: { trial_id } } })
type OnAny<T> = Omit<T, 'medium'> & { medium: string }
export const startTest = (body: OnAny<Schemas['StartIn']>) =>
  take(api.POST('/api/tests', { body: { ...body, medium: chosen(body.medium) } }))
export const pastTest = (body: OnAny<Schemas['PastIn']>) =>
  take(api.POST('/api/tests/past', { body: { ...body, medium: chosen(body.medium) } }))
export const toldTest = (body: Schemas['ToldIn']) => take(api.POST('/api/tests/told', { body }))
export const countTest = (trial: number, body: Schemas['CountIn']) =>
  take(api.POST('/api/tests/{trial_id}/counts', { ...of(trial), body }))
export const dropTest = (trial: number, why: string) =>
  take(api.POST('/api/tests/{trial_id}/drop', { ...of(trial), body: { why } }))
