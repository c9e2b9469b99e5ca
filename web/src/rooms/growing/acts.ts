import { api, chosen, sendFile, take, type Schemas } from '../../api/client'

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
      body: { purity: chosen(purity), version },
    }),
  )
export const setLimits = (body: Schemas['LimitsIn']) => take(api.PUT('/api/growing/limits', { body }))
export const nextDoor = () => take(api.GET('/api/growing/next-door'))
export const crossing = () => take(api.GET('/api/growing/crossing'))
export const theCalendar = () => take(api.GET('/api/growing/calendar'))
const at = (where: { crop: string; setting: string }) => ({
  params: { path: { crop: where.crop, setting: chosen(where.setting) } },
})
type Where = Parameters<typeof at>[0]
export const sayDays = (path: Where, body: Schemas['OwnDaysIn']) =>
  take(api.PUT('/api/growing/calendar/{crop}/{setting}', { ...at(path), body }))
export const bookDays = (path: Where) => take(api.DELETE('/api/growing/calendar/{crop}/{setting}', at(path)))
export const bringForecast = (file: File) => sendFile('/api/weather', file)
