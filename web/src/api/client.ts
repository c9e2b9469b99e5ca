import createClient from 'openapi-fetch'
import { ref } from 'vue'
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
    readonly problems: Schemas['Wrong'][] = [],
    readonly warnings: string[] = [],
  ) {
    super(message)
  }
}

/** A code that was chosen from a list: the lists are the server's, the choice fields know plain texts. */
export const chosen = (code: string) => code as never

/** Whatever went wrong, as a problem that may be shown. */
export const asProblem = (error: unknown) =>
  error instanceof Problem ? error : new Problem(0, 'Something went wrong', String(error))

// Who acts here, and in whose larder: a person chosen in another household's file is nobody in this one.
// Nothing is sent as somebody before the larder has said which file it is.
const person: { id: number | null; file: string } = { id: null, file: '' }
const kept = (file: string) => `person:${file}`

/** Which file is served: brings back who was chosen for it, if that person is still of the house. */
export function servedFrom(file: string, people: { id?: number | null }[]) {
  person.file = file
  const id = Number(localStorage.getItem(kept(file)) ?? 0)
  person.id = people.some((p) => p.id === id) ? id : null
  if (person.id === null) localStorage.removeItem(kept(file))
  localStorage.removeItem('person') // as earlier releases kept it, for any file
  return person.id
}
export function actAs(id: number | null) {
  person.id = id
  if (id === null) localStorage.removeItem(kept(person.file))
  else localStorage.setItem(kept(person.file), String(id))
}

// The last act that an answer knew of, and what this page did: by these the larder knows what a form has not seen.
let acts = 0
const mine: string[] = []
const MOST_MINE = 60
/** The number of the last act that the page knows of. */
export const actsSeen = () => acts
/** An act that was done from this page: no form of it need be told. */
export function didHere(id: string) {
  mine.push(id)
  if (mine.length > MOST_MINE) mine.shift()
}

let current: string | null = null
let seen: number | null = null
/** Sends what ``call`` sends at once as the act of that id: tried again, it is still the same act. ``since``: what
 * the form in which it was written has seen. */
export function asAct<T>(id: string, call: () => T, since: number | null = null): T {
  current = id
  seen = since
  try {
    return call()
  } finally {
    current = seen = null
  }
}

/** What tells the larder who acts, in which file the page thinks it is, and which act it is. */
function actHeaders(): Record<string, string> {
  const headers: Record<string, string> = { 'X-Act-Id': current ?? crypto.randomUUID() }
  if (person.id !== null) headers['X-Person-Id'] = String(person.id)
  if (person.file) headers['X-Larder-File'] = person.file
  if (seen !== null) {
    headers['X-Larder-Seen'] = String(seen)
    headers['X-Own-Acts'] = mine.join(',')
  }
  return headers
}

/** What went out under which id: the same id with something else in it would be another act. */
const sent = new Map<string, string>()
const MOST_SENT = 200

export const api = createClient<paths>({ baseUrl: '' })
api.use({
  async onRequest({ request }) {
    if (request.method === 'GET') return request
    const headers = actHeaders() // before anything is waited for: the id is that of the call under way
    const body = `${request.method} ${request.url} ${await request.clone().text()}`
    const before = sent.get(headers['X-Act-Id']!)
    if (before !== undefined && before !== body) headers['X-Act-Id'] = crypto.randomUUID()
    if (sent.size > MOST_SENT) sent.clear()
    sent.set(headers['X-Act-Id']!, body)
    for (const [name, value] of Object.entries(headers)) request.headers.set(name, value)
    return request
  },
  onResponse({ request, response }) {
    if (request.method === 'GET') acts = Math.max(acts, Number(response.headers.get('X-Larder-Acts') ?? 0))
  },
})

/** Whether the last question got no answer at all. */
export const away = ref(false)

type Answered<T> = { data?: T; error?: unknown; response: Response }

/** The data of an answer, or a Problem. */
export async function take<T>(call: Promise<Answered<T>>): Promise<T> {
  let got: Answered<T>
  try {
    got = await call
    away.value = false
  } catch {
    away.value = true
    throw new Problem(0, 'No answer', 'The larder does not answer. Is the server still running?')
  }
  if (got.response.ok && got.data !== undefined) return got.data
  const said = (got.error ?? {}) as Partial<Schemas['Problem']>
  // another file is served at this address by now: what stands here is of no use any more
  if (said.other) setTimeout(() => location.reload(), 2500)
  throw new Problem(
    got.response.status,
    said.title ?? 'Something went wrong',
    said.detail ?? 'The server gave no reason.',
    said.field ?? '',
    said.problems ?? [],
    said.warnings ?? [],
  )
}

/** Send a file to an address that takes one. */
export async function sendFile<T = Schemas['Answer']>(url: string, file: File): Promise<T> {
  const body = new FormData()
  body.append('file', file)
  const response = await fetch(url, { method: 'POST', body, headers: actHeaders() })
  const data = await response.json()
  return take<T>(Promise.resolve(response.ok ? { data, response } : { error: data, response }))
}
