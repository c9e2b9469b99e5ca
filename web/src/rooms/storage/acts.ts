import { api, chosen, take, type Schemas } from '../../api/client'

/** What one does in Storage. */
const of = (node_id: number) => ({ params: { path: { node_id } } })
export const addNode = (body: Schemas['NodeIn']) => take(api.POST('/api/storage/nodes', { body }))
export const changeNode = (node: number, body: Schemas['NodeEditIn']) =>
  take(api.PATCH('/api/storage/nodes/{node_id}', { ...of(node), body }))
export const moveNode = (node: number, parent_id: number, on: string, anyway: boolean) =>
  take(api.POST('/api/storage/nodes/{node_id}/move', { ...of(node), body: { parent_id, on, anyway } }))
export const takeOut = (node: number) =>
  take(api.POST('/api/storage/nodes/{node_id}/out', { ...of(node), body: {} }))
export const putBack = (node: number) => take(api.POST('/api/storage/nodes/{node_id}/back', of(node)))
export const noteEvent = (
  node: number,
  kind: string,
  more: { on: string; anyway: boolean; note?: string; figures?: Record<string, number> },
) =>
  take(
    api.POST('/api/storage/nodes/{node_id}/events', {
      ...of(node),
      body: { kind: chosen(kind), note: '', ...more },
    }),
  )
export const putDesiccant = (node: number, kind: string, mass_g: number) =>
  take(
    api.POST('/api/storage/nodes/{node_id}/desiccant', { ...of(node), body: { kind, mass_g, spent: false } }),
  )
export const readDial = (node: number, body: Schemas['ReadingIn']) =>
  take(api.POST('/api/storage/nodes/{node_id}/readings', { ...of(node), body }))
export const readRound = (stops: Schemas['StopIn'][]) =>
  take(api.POST('/api/storage/round', { body: { stops } }))
export const orderRound = (node_ids: number[]) =>
  take(api.PUT('/api/storage/round/order', { body: { node_ids } }))
export const noteDryness = (body: Schemas['DrynessIn']) => take(api.POST('/api/storage/dryness', { body }))
export const planMoves = (moves: Schemas['MovesIn']['moves']) =>
  take(api.POST('/api/storage/best-use/jobs', { body: { moves } }))
export const addDevice = (name: string, node_id: number) =>
  take(api.POST('/api/storage/devices', { body: { name, node_id } }))
export const revokeDevice = (device_id: number, version: number) =>
  take(
    api.POST('/api/storage/devices/{device_id}/revoke', {
      params: { path: { device_id } },
      body: { version },
    }),
  )
