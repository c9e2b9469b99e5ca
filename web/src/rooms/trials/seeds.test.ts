import { describe, expect, it } from 'vitest'
import { countOf, laid, tapped, withCount } from './seeds'

describe('seeds as laid', () => {
  it('lie as they were counted, or in the order of their states where only numbers are known', () => {
    expect(laid(4, 'wuwc', 1, {})).toBe('wuwc')
    expect(laid(6, '', 2, { mouldy: 1, gone: 1 })).toBe('uumgww')
    expect(laid(4, 'wuww', 2, {})).toBe('uuww') // counted by number since: what lay is not known
  })
  it('follow a number that is typed, and keep what else was said of each', () => {
    expect(withCount('wmwc', 'u', 2)).toBe('umuc')
    expect(withCount('umuc', 'u', 1)).toBe('umwc')
    expect(withCount('wm', 'u', 5)).toBe('um')
    expect(countOf('umuc', 'u')).toBe(2)
  })
  it('take an answer by a tap, and back by another', () => {
    expect(tapped('www', 1, 'u')).toBe('wuw')
    expect(tapped('wuw', 1, 'u')).toBe('www')
    expect(tapped('wuw', 1, 'm')).toBe('wmw')
  })
})
