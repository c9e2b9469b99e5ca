import { ref, watch, type Ref } from 'vue'
import { api, take, type Glance } from '../../api/client'

const CHUNK = 40

/** Strips of the lots in view: asked for in chunks as they come into sight, anew when the list changed. */
export function useStrips(wanted: Ref<number[]>, version: Ref<unknown>) {
  const strips = ref(new Map<number, Glance>())
  const asked = new Map<number, unknown>()
  let timer: ReturnType<typeof setTimeout> | undefined

  async function load() {
    const ids = wanted.value.filter((id) => asked.get(id) !== version.value)
    for (let i = 0; i < ids.length; i += CHUNK) {
      const chunk = ids.slice(i, i + CHUNK)
      const stamp = version.value
      chunk.forEach((id) => asked.set(id, stamp))
      try {
        const got = await take(api.GET('/api/stock/strips', { params: { query: { lot_ids: chunk } } }))
        const next = new Map(strips.value)
        for (const [id, glance] of Object.entries(got)) next.set(Number(id), glance)
        strips.value = next
      } catch {
        // asked again at the next look; the row itself says what is known
        chunk.forEach((id) => asked.delete(id))
      }
    }
  }
  watch(
    [wanted, version],
    () => {
      clearTimeout(timer)
      timer = setTimeout(load, 60)
    },
    { immediate: true },
  )
  return strips
}
