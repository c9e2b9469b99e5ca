import { api, take, type Schemas } from '../../api/client'

/** What one settles of the years ahead. */
export const settleYear = (body: Schemas['YearIn']) => take(api.POST('/api/growing/years', { body }))
export const barYear = (variety_id: number, year: number) =>
  take(api.POST('/api/growing/years/bar', { body: { variety_id, year } }))
export const freeYear = (variety_id: number, year: number) =>
  take(api.POST('/api/growing/years/free', { body: { variety_id, year } }))
export const settleAll = (year: number) => take(api.POST('/api/growing/years/all', { body: { year } }))
export const setPurity = (variety_id: number, purity: string, version: number) =>
  take(
    api.PUT('/api/growing/lines/{variety_id}', {
      params: { path: { variety_id } },
      body: { purity, version },
    }),
  )
export const setLimits = (body: Schemas['LimitsIn']) => take(api.PUT('/api/growing/limits', { body }))
export const nextDoor = () => take(api.GET('/api/growing/next-door'))
export const crossing = () => take(api.GET('/api/growing/crossing'))
export const theCalendar = () => take(api.GET('/api/growing/calendar'))
