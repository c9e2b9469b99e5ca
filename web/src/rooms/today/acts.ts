import { api, chosen, take, type Schemas } from '../../api/client'

/** What one does in Today. */
export const setJobs = (
  origin_keys: string[],
  state: string,
  more: { moved_to_s?: number; person_id?: number | null } = {},
) => take(api.PUT('/api/jobs', { body: { origin_key: '', origin_keys, state: chosen(state), ...more } }))
export const writeJob = (id: number | null, body: Schemas['JobSaid']) =>
  take(
    id === null
      ? api.POST('/api/jobs/own', { body })
      : api.PATCH('/api/jobs/own/{job_id}', { params: { path: { job_id: id } }, body }),
  )
export const countUp = (sowing_id: number, up: number, settled: boolean) =>
  take(
    api.POST('/api/sowings/{sowing_id}/counts', {
      params: { path: { sowing_id } },
      body: { up, settled, on: '' },
    }),
  )
export const changeHousehold = (values: Record<string, string>) =>
  take(api.PATCH('/api/household', { body: { values, version: null } }))
export const settle = (living: string, southern: boolean) =>
  take(api.POST('/api/household/settle', { body: { living: chosen(living), southern } }))
