import createClient from 'openapi-fetch'
import type { components, paths } from './schema'

export type Schemas = components['schemas']
export type LotLine = Schemas['LotLine']
export type StockRow = Schemas['StockRow']
export type Glance = Schemas['Glance']
export type Box = Schemas['Box']
export type ChainLine = Schemas['ChainLine']
export type Running = Schemas['Running']
export type Proposal = Schemas['Proposal']

/** A problem document of the server, as an error that may be shown. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    message: string,
    readonly field = '',
    readonly problems: { line: number; field: string; reason: string }[] = [],
    readonly warnings: string[] = [],
  ) {
    super(message)
  }
}

const person = { id: Number(localStorage.getItem('person') ?? 0) || null }
export function actAs(id: number | null) {
  person.id = id
  if (id === null) localStorage.removeItem('person')
  else localStorage.setItem('person', String(id))
}
export const actingPerson = () => person.id

export const api = createClient<paths>({ baseUrl: '' })
api.use({
  onRequest({ request }) {
    if (request.method !== 'GET') {
      // the act's identity is made here, so that a retry is the same act
      request.headers.set('X-Act-Id', crypto.randomUUID())
      if (person.id !== null) request.headers.set('X-Person-Id', String(person.id))
    }
    return request
  },
})

type Answered<T> = { data?: T; error?: unknown; response: Response }

/** The data of an answer, or a Problem. */
export async function take<T>(call: Promise<Answered<T>>): Promise<T> {
  let got: Answered<T>
  try {
    got = await call
  } catch {
    throw new Problem(0, 'No answer', 'The larder does not answer. Is the server still running?')
  }
  if (got.response.ok && got.data !== undefined) return got.data
  const said = (got.error ?? {}) as Record<string, unknown>
  throw new Problem(
    got.response.status,
    String(said.title ?? 'Something went wrong'),
    String(said.detail ?? 'The server gave no reason.'),
    String(said.field ?? ''),
    (said.problems ?? []) as Problem['problems'],
    (said.warnings ?? []) as string[],
  )
}

/** Send a file to an address that takes one. */
export async function sendFile<T = Schemas['Answer']>(url: string, file: File): Promise<T> {
  const body = new FormData()
  body.append('file', file)
  const headers: Record<string, string> = { 'X-Act-Id': crypto.randomUUID() }
  if (person.id !== null) headers['X-Person-Id'] = String(person.id)
  const response = await fetch(url, { method: 'POST', body, headers })
  const data = await response.json()
  return take<T>(Promise.resolve(response.ok ? { data, response } : { error: data, response }))
}
