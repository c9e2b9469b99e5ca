import { api, sendFile, take, type Schemas } from '../../api/client'

/** What one does in Papers. */
const of = (parcel_id: number) => ({ params: { path: { parcel_id } } })
const into = (node: number | null) => (node === null ? '' : `?node_id=${node}`)
export const bringPackets = (file: File, node: number | null) =>
  sendFile(`/api/papers/packets${into(node)}`, file)
export const receiveParcel = (file: File, node: number | null) =>
  sendFile(`/api/papers/parcels/receive${into(node)}`, file)
export const promise = (body: Schemas['PromiseIn']) => take(api.POST('/api/papers/parcels', { body }))
export const pack = (parcel: number, anyway: boolean) =>
  take(api.POST('/api/papers/parcels/{parcel_id}/pack', { ...of(parcel), body: { anyway } }))
export const send = (parcel: number) => take(api.POST('/api/papers/parcels/{parcel_id}/send', of(parcel)))
export const dropPromise = (parcel: number) => take(api.DELETE('/api/papers/parcels/{parcel_id}', of(parcel)))
export const changeHousehold = (values: Record<string, unknown>, version: number | undefined) =>
  take(api.PATCH('/api/household', { body: { values, version } }))
export const addPerson = (name: string) => take(api.POST('/api/people', { body: { name } }))
export const calendarAddress = () => take(api.GET('/api/calendar'))
export const newAddress = () => take(api.POST('/api/calendar'))
export const closeAddress = () => take(api.DELETE('/api/calendar'))
