import { describe, expect, it } from 'vitest'
import * as u from './units'

const here = u.waysOf(undefined)
const there = u.waysOf({
  temperature_unit: 'F',
  mass_unit: 'oz',
  volume_unit: 'qt',
  length_unit: 'ft',
  locale: 'en-US',
})
const comma = u.waysOf({ locale: 'de-DE' })

describe('what is shown', () => {
  it('turns temperatures, and says what is not known', () => {
    expect(u.temperature(-18.52, here)).toBe('−18.5 °C')
    expect(u.temperature(37, there)).toBe('99 °F')
    expect(u.temperature(20.25, comma)).toBe('20,3 °C')
    expect(u.temperature(null, here)).toBe('–')
  })
  it('chooses the unit of a weight by its size', () => {
    expect([0.33, 3.5, 1500].map((g) => u.mass(g, here))).toEqual(['0.33 g', '3.5 g', '1.5 kg'])
    expect([28.349523125, 453.59237].map((g) => u.mass(g, there))).toEqual(['1 oz', '1 lb'])
  })
  it('paces distances', () => {
    expect(u.distance(400, here)).toBe('400 m')
    expect(u.distance(400, there)).toBe('1310 ft')
  })
  it('shows produce and jars as the household counts them, and takes them back', () => {
    expect(u.productUnit('kg', there)).toBe('lb')
    expect(u.productUnit('jars', there)).toBe('jars')
    for (const unit of ['kg', 'litres', 'jars'])
      for (const w of [here, there])
        expect(u.productTyped(u.productShown(12.5, unit, w), unit, w)).toBeCloseTo(12.5, 10)
  })
})

describe('what is typed', () => {
  it.each([
    ['1,500', '.', 1500],
    ['1,5', '.', 1.5],
    ['1.500', ',', 1500],
    ['1.5', ',', 1.5],
    ['1,5', ',', 1.5],
    ['1 500', '.', 1500],
    ['1,500.25', '.', 1500.25],
    ['1.500,25', ',', 1500.25],
    ['80 %', '.', 80],
    ['-4', '.', -4],
  ])('reads %s with %s as its decimal sign as %d', (text, decimal, value) => {
    expect(u.readNumber(text, decimal)).toBe(value)
  })
  it('tells nothing from no number', () => {
    expect(u.readNumber(' ', '.')).toBeNull()
    expect(u.readNumber('a few', '.')).toBeNaN()
  })
  it('writes what it reads', () => {
    for (const decimal of ['.', ','])
      for (const n of [0, 0.5, 12, 1234.5]) expect(u.readNumber(u.writeNumber(n, decimal), decimal)).toBe(n)
  })
})
