import { computed, ref, shallowRef } from 'vue'

/** Packets that are chosen for one thing to do with all of them; a range by the shift key. */
export function usePicks<R extends { lot_id: number }>(rows: () => R[]) {
  const chosen = shallowRef(new Set<number>())
  const last = ref<number | null>(null)
  function pick(id: number, range = false) {
    const next = new Set(chosen.value)
    const all = rows().map((r) => r.lot_id)
    const [from, to] = [all.indexOf(last.value ?? -1), all.indexOf(id)]
    if (range && from >= 0 && to >= 0) {
      for (const other of all.slice(Math.min(from, to), Math.max(from, to) + 1)) next.add(other)
    } else if (!next.delete(id)) next.add(id)
    last.value = id
    chosen.value = next
  }
  return {
    chosen,
    pick,
    all: () => (chosen.value = new Set(rows().map((r) => r.lot_id))),
    none: () => (chosen.value = new Set()),
    lots: computed(() => rows().filter((r) => chosen.value.has(r.lot_id))),
  }
}
