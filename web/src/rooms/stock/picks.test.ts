import { describe, expect, it } from 'vitest'
import { usePicks } from './picks'

const rows = [1, 2, 3, 4, 5, 6].map((lot_id) => ({ lot_id }))
const ids = (p: ReturnType<typeof usePicks>) => p.lots.value.map((r) => r.lot_id)

describe('choosing packets', () => {
  it('chooses, leaves, and takes a range by shift in either direction', () => {
    const picks = usePicks(() => rows)
    picks.pick(2)
    picks.pick(5, true)
    expect(ids(picks)).toEqual([2, 3, 4, 5])
    picks.pick(3)
    expect(ids(picks)).toEqual([2, 4, 5])
    picks.pick(1, true)
    expect(ids(picks)).toEqual([1, 2, 3, 4, 5])
  })
  it('keeps what a filter hides out of what is done', () => {
    let shown = rows
    const picks = usePicks(() => shown)
    picks.all()
    shown = rows.slice(0, 2)
    picks.none()
    picks.all()
    expect(ids(picks)).toEqual([1, 2])
  })
  it('starts a range anew when its beginning is not in sight', () => {
    const picks = usePicks(() => rows)
    picks.pick(6, true)
    expect(ids(picks)).toEqual([6])
  })
})
