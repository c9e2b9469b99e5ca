import { keepPreviousData, useIsFetching, useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { Modal } from 'ant-design-vue'
import { computed, h, ref, watch, type Ref } from 'vue'
import { actsSeen, api, asAct, asProblem, chosen, didHere, Problem, take, type Schemas } from './client'

export const useHome = () =>
  useQuery({ queryKey: ['home'], queryFn: () => take(api.GET('/api/household')), staleTime: 60_000 })
export const useShelves = () =>
  useQuery({ queryKey: ['shelves'], queryFn: () => take(api.GET('/api/storage/shelves')) })
export const useBench = () => useQuery({ queryKey: ['bench'], queryFn: () => take(api.GET('/api/tests')) })
export const useLookingBack = () =>
  useQuery({ queryKey: ['looking-back'], queryFn: () => take(api.GET('/api/tests/looking-back')) })
export const useNeeds = (enabled: Ref<boolean> = ref(true)) =>
  useQuery({ queryKey: ['needs'], enabled, queryFn: () => take(api.GET('/api/needs')) })
export const useToday = (enabled: Ref<boolean> = ref(true)) =>
  useQuery({ queryKey: ['today'], enabled, queryFn: () => take(api.GET('/api/today')) })
/** What no act of the rooms changes: asked once. An act that adds a kind says so. */
const BOOKS = ['products', 'storage-kinds', 'sheets', 'living', 'kinds']
/** What frames every page and is made of all rooms: asked for when the page itself has what it needs. */
const FRAME = ['counts', 'ribbon']
type Asked = { queryKey: readonly unknown[] }
const topic = (query: Asked) => String(query.queryKey[0])
function afterThePage() {
  const ready = ref(false)
  const stop = watch(useIsFetching(), (count) => {
    if (count) return
    ready.value = true
    stop()
  })
  return ready
}
export const useRibbon = () =>
  useQuery({
    queryKey: ['ribbon'],
    enabled: afterThePage(),
    queryFn: () => take(api.GET('/api/ribbon')),
  })
/** The numbers beside the rooms' names. */
export const useCounts = () =>
  useQuery({
    queryKey: ['counts'],
    enabled: afterThePage(),
    queryFn: () => take(api.GET('/api/counts')),
  })
export const useGrowing = () =>
  useQuery({ queryKey: ['growing'], queryFn: () => take(api.GET('/api/growing')) })
export const useSaving = () => useQuery({ queryKey: ['saving'], queryFn: () => take(api.GET('/api/saving')) })
export const useActs = () => useQuery({ queryKey: ['acts'], queryFn: () => take(api.GET('/api/acts')) })
export const useKinds = () =>
  useQuery({ queryKey: ['kinds'], queryFn: () => take(api.GET('/api/kinds')), staleTime: 300_000 })
export const useProducts = () =>
  useQuery({
    queryKey: ['products'],
    queryFn: () => take(api.GET('/api/needs/products')),
    staleTime: Infinity,
  })
export const useStorageKinds = () =>
  useQuery({
    queryKey: ['storage-kinds'],
    queryFn: () => take(api.GET('/api/storage/kinds')),
    staleTime: Infinity,
  })
export const useLot = (id: Ref<number>) =>
  useQuery({
    queryKey: ['lot', id],
    queryFn: () => take(api.GET('/api/stock/lots/{lot_id}', { params: { path: { lot_id: id.value } } })),
  })
/** Between which two packets one files. */
export const useFilesAt = (id: Ref<number | null>) =>
  useQuery({
    queryKey: ['files-at', id],
    enabled: computed(() => id.value !== null),
    queryFn: () =>
      take(api.GET('/api/stock/lots/{lot_id}/files-at', { params: { path: { lot_id: id.value ?? 0 } } })),
  })
export const useRows = (group: Ref<string>) =>
  useQuery({
    queryKey: ['rows', group],
    shallow: true, // thousands of rows that are replaced, never changed
    placeholderData: keepPreviousData,
    // while forecasts are being made in the background, the list asks again
    refetchInterval: (query) => (query.state.data?.pending ? 1500 : false),
    queryFn: () => take(api.GET('/api/stock/rows', { params: { query: { group: chosen(group.value) } } })),
  })
export const useViews = () =>
  useQuery({ queryKey: ['views'], queryFn: () => take(api.GET('/api/stock/views')) })
export const useGaps = () => useQuery({ queryKey: ['gaps'], queryFn: () => take(api.GET('/api/stock/gaps')) })
export const useTriage = () =>
  useQuery({ queryKey: ['triage'], queryFn: () => take(api.GET('/api/stock/triage')) })
export const useTakes = () =>
  useQuery({ queryKey: ['takes'], queryFn: () => take(api.GET('/api/stock/stocktakes')) })
export const useTake = (id: Ref<number>) =>
  useQuery({
    queryKey: ['take', id],
    queryFn: () =>
      take(api.GET('/api/stock/stocktakes/{stocktake_id}', { params: { path: { stocktake_id: id.value } } })),
  })
export const useGiving = (enabled: Ref<boolean> = ref(true)) =>
  useQuery({ queryKey: ['giving'], enabled, queryFn: () => take(api.GET('/api/papers/parcels')) })
export const useSheets = () =>
  useQuery({
    queryKey: ['sheets'],
    queryFn: () => take(api.GET('/api/papers/sheets')),
    staleTime: Infinity,
  })
/** A span of a node's chart: epoch seconds. */
export type Span = { from: number; to: number }
const spanned = (id: Ref<number>, span: Ref<Span>) => ({
  params: { path: { node_id: id.value }, query: { from_s: span.value.from, to_s: span.value.to } },
})
export const useRead = (id: Ref<number>, span: Ref<Span>) =>
  useQuery({
    queryKey: ['read', id, span],
    placeholderData: keepPreviousData,
    queryFn: () => take(api.GET('/api/storage/nodes/{node_id}/read', spanned(id, span))),
  })
export const useAir = (id: Ref<number>, span: Ref<Span>) =>
  useQuery({
    queryKey: ['air', id, span],
    placeholderData: keepPreviousData,
    queryFn: () => take(api.GET('/api/storage/nodes/{node_id}/air', spanned(id, span))),
  })
export const useNode = (id: Ref<number>) =>
  useQuery({
    queryKey: ['node', id],
    queryFn: () => take(api.GET('/api/storage/nodes/{node_id}', { params: { path: { node_id: id.value } } })),
  })
export const useAlarms = () =>
  useQuery({ queryKey: ['alarms'], queryFn: () => take(api.GET('/api/storage/alarms')) })
export const useRound = () =>
  useQuery({ queryKey: ['round'], queryFn: () => take(api.GET('/api/storage/round')) })

/** What was done last and can be taken back: shown for a while at the foot of the page. */
export const lastAct = ref<{ id: string; words: string; undone: boolean } | null>(null)
/** The last problem, until it is read. */
export const lastProblem = ref<Problem | null>(null)

/** The cautions at an act, asked once. */
const askedAnyway = (warned: string[]) =>
  new Promise<boolean>((resolve) =>
    Modal.confirm({
      title: 'Before you do it',
      content: h(
        'ul',
        { class: 'cautions' },
        warned.map((w) => h('li', w)),
      ),
      okText: 'Do it all the same',
      cancelText: 'Leave it',
      onOk: () => resolve(true),
      onCancel: () => resolve(false),
    }),
  )
const TAP_MS = 700 // a second tap so soon is the same tap
/** What is under way or was done a moment ago, by its words: a double click does it once. */
const going = new Map<string, Promise<Schemas['Answer'] | null>>()
/** Ids of acts that got no answer: tried again, they are the same acts. */
const unanswered = new Map<string, string>()

/** Do something that is kept: shows the undo, refreshes what it touched (`books`: kinds and lists of
 * choices too), shows what went wrong. `form`: of what came in since the form was opened it is told, instead of
 * putting its own over it. */
export function useAct(books = false, form = false) {
  const client = useQueryClient()
  let since = form ? actsSeen() : null
  const mutation = useMutation({
    mutationFn: ({ call }: { call: () => Promise<Schemas['Answer']>; words: string; books?: boolean }) =>
      call(),
    onSuccess: (answer, { words, books }) => {
      lastProblem.value = null
      didHere(answer.act_id)
      lastAct.value = { id: answer.act_id, words, undone: false }
      // Not awaited: the form is free again at once, the rooms follow. What is still being loaded for
      // the first time is begun anew, or it would come back as it was before the act.
      // What frames the page comes last: it waits for every room.
      const touched = (query: Asked) => books || !BOOKS.includes(topic(query))
      const framing = (query: Asked) => FRAME.includes(topic(query))
      void client
        .cancelQueries({ predicate: touched })
        .then(() => client.invalidateQueries({ predicate: (q) => touched(q) && !framing(q) }))
        .then(() => client.invalidateQueries({ predicate: framing }))
    },
    onError: (error) => {
      // nothing can be written: the page says so until it can
      if (error instanceof Problem && error.status === 503)
        void client.invalidateQueries({ queryKey: ['home'] })
      // told once: what stands there now is shown, and saved again it is known
      if (form && error instanceof Problem && error.status === 409)
        void client.invalidateQueries().then(() => (since = actsSeen()))
      lastProblem.value = asProblem(error)
    },
  })
  return {
    busy: mutation.isPending,
    /** Resolves with the answer, or null when it was refused (the problem is shown). ``again``: the same
     * words may follow at once and mean another act (two packets alike). */
    run(
      words: string,
      call: () => Promise<Schemas['Answer']>,
      again = false,
    ): Promise<Schemas['Answer'] | null> {
      const same = going.get(words)
      if (same) return same
      const id = unanswered.get(words) ?? crypto.randomUUID()
      const doing = mutation
        .mutateAsync({ call: () => asAct(id, call, since), words, books })
        .then((answer) => {
          unanswered.delete(words)
          if (again) going.delete(words)
          else setTimeout(() => going.delete(words), TAP_MS)
          return answer
        })
        .catch((error) => {
          if (error instanceof Problem && error.status === 0) unanswered.set(words, id)
          else unanswered.delete(words)
          going.delete(words)
          return null
        })
      going.set(words, doing)
      return doing
    },
    /** The same, asking first where the larder warns (a line's reserve, mixed years). */
    async runAsking(words: string, call: (anyway: boolean) => Promise<Schemas['Answer']>, again = false) {
      const done = await this.run(words, () => call(false), again)
      const warned = lastProblem.value?.warnings
      if (done || !warned?.length) return done
      lastProblem.value = null
      return (await askedAnyway(warned)) ? this.run(words, () => call(true), again) : null
    },
  }
}

export function useUndo() {
  const act = useAct()
  return {
    busy: act.busy,
    async undo(id: string, words: string) {
      const done = await act.run(
        `Took back: ${words}`,
        () => take(api.POST('/api/acts/{act_id}/undo', { params: { path: { act_id: id } } })),
        true, // taken back and done again have the same words
      )
      if (done && lastAct.value) lastAct.value = { id: done.act_id, words, undone: true }
      return done
    },
  }
}
