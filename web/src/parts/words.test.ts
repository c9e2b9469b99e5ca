import { describe, expect, it } from 'vitest'
import { believed, middle, until } from './words'

// the same cases as tests/core/test_as_sure.py
describe('no number is said surer than it is known', () => {
  it.each([
    [0.894, 1, '89 %'],
    [0.874, 5, 'about 85 %'],
    [0.875, 5, 'about 90 %'],
    [0.42, 10, 'roughly 40 %'],
    [0.04, 10, 'under 10 %'],
    [0.02, 5, 'under 5 %'],
    [0.96, 10, 'over 90 %'],
    [0, 1, '0 %'],
  ])('%f in steps of %i', (mid, step, says) => expect(middle(mid, step)).toBe(says))

  it('rounds the ends as the middle', () => {
    expect(believed({ low: 0.02, mid: 0.42, high: 0.78, step: 10 })).toBe('roughly 40 %, likely 0–80')
  })

  it('tells the middle year only where the years lie near', () => {
    const at = (y: number) => Date.UTC(y, 6, 1) / 1000
    const span = (low: number, high: number) => ({
      good_until_s: at(2028),
      good_until_low_s: at(low),
      good_until_high_s: at(high),
    })
    expect(until(span(2026, 2031))).toBe('2028, likely 2026–31')
    expect(until(span(2026, 2038))).toBe('likely 2026–38')
    expect(until({ ...span(2026, 2038), good_until_high_s: null })).toBe('2028, likely 2026 or later')
  })
})
