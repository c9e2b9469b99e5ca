import { onScopeDispose, shallowRef, watch, type Ref } from 'vue'
import { api, take, type Glance } from '../../api/client'

const CHUNK = 40
/** So many strips are drawn in one frame: the wheel turns on between them. */
const A_FRAME = 6

/** Strips of the lots in view: asked for in chunks as they come into sight, anew when the list changed. */
export function useStrips(wanted: Ref<number[]>, version: Ref<unknown>) {
  const known = new Map<number, Glance>()
  // shallow: thousands of points that never change need no watching one by one
  const shown = shallowRef(new Map<number, Glance>())
  const asked = new Map<number, unknown>()
  let timer: ReturnType<typeof setTimeout> | undefined
  let frame = 0

  function draw() {
    frame = 0
    const next = new Map<number, Glance>()
    let fresh = 0
    for (const id of wanted.value) {
      const old = shown.value.get(id)
      const now = known.get(id)
      if (now && now !== old && fresh < A_FRAME) {
        next.set(id, now)
        fresh += 1
      } else if (old) next.set(id, old)
    }
    shown.value = next
    if (fresh === A_FRAME) later()
  }
  function later() {
    if (!frame) frame = requestAnimationFrame(draw)
  }
  async function load() {
    const ids = wanted.value.filter((id) => asked.get(id) !== version.value)
    for (let i = 0; i < ids.length; i += CHUNK) {
      const chunk = ids.slice(i, i + CHUNK)
      const stamp = version.value
      chunk.forEach((id) => asked.set(id, stamp))
      try {
        const got = await take(api.GET('/api/stock/strips', { params: { query: { lot_ids: chunk } } }))
        for (const [id, glance] of Object.entries(got)) known.set(Number(id), glance)
        later()
      } catch {
        // asked again at the next look; the row itself says what is known
        chunk.forEach((id) => asked.delete(id))
      }
    }
  }
  watch(
    [wanted, version],
    () => {
      later()
      clearTimeout(timer)
      timer = setTimeout(load, 60)
    },
    { immediate: true },
  )
  onScopeDispose(() => {
    clearTimeout(timer)
    cancelAnimationFrame(frame)
  })
  return shown
}
