import { computed } from 'vue'
import { useHome } from '../api/queries'
import * as units from './units'

/** How the household writes: its units, decimal sign and order of dates, for the edges of the screen. */
export function useWriting() {
  const home = useHome()
  const ways = computed<units.Ways>(() => units.waysOf(home.data.value?.household))
  const decimal = computed(() => units.decimalOf(ways.value.locale))
  return {
    ways,
    decimal,
    unit: computed(() => units.degree(ways.value)),
    massUnit: computed(() => units.smallMass(ways.value)),
    kiloUnit: computed(() => units.bigMass(ways.value)),
    depthUnit: computed(() => (ways.value.length === 'ft' ? 'in' : 'cm')),
    /** Centimetres of a depth typed in the household's unit. */
    depthCm: (typed: number) => (ways.value.length === 'ft' ? typed * 2.54 : typed),
    dateFormat: computed(() => units.dateFormat(ways.value)),
    amounts: computed(() =>
      ways.value.mass === 'oz' ? '120, 0.2 oz, half left' : `120, 3${decimal.value}5 g, half left`,
    ),
    /** A temperature in words, with its unit. */
    temperature: (c: number | null | undefined) => units.temperature(c, ways.value),
    /** A round temperature of our own sentences: 18 °C, 64 °F. */
    about: (c: number) => `${Math.round(units.degrees(c, ways.value))} ${units.degree(ways.value)}`,
    /** A temperature as a bare number in the household's unit. */
    number: (c: number) => units.degrees(c, ways.value),
    celsius: (typed: number) => units.celsius(typed, ways.value),
    /** A difference of temperatures given in °C. */
    warmer: (c: number) =>
      `${Math.round(c * (ways.value.temperature === 'F' ? 1.8 : 1))} ${units.degree(ways.value)}`,
    /** An area of so many square metres. */
    area: (m2: number) =>
      ways.value.length === 'ft' ? `${Math.round(m2 * 10.764)} ft²` : `${Math.round(10 * m2) / 10} m²`,
    lengthUnit: computed(() => ways.value.length),
    metres: (typed: number) => (ways.value.length === 'ft' ? typed * 0.3048 : typed),
    unmetre: (m: number) => (ways.value.length === 'ft' ? m / 0.3048 : m),
    mass: (g: number) => units.mass(g, ways.value),
    /** Grams of a number typed in the household's small unit of weight. */
    grams: (typed: number) => typed * units.GRAMS[units.smallMass(ways.value)],
    kilos: (typed: number) => (typed * units.GRAMS[units.bigMass(ways.value)]) / 1000,
    unkilo: (kg: number) => (kg * 1000) / units.GRAMS[units.bigMass(ways.value)],
    /** Produce, jars, litres: the unit, a value shown in it, and one typed in it. */
    productUnit: (unit: string) => units.productUnit(unit, ways.value),
    productShown: (value: number, unit: string) => units.productShown(value, unit, ways.value),
    productTyped: (typed: number, unit: string) => units.productTyped(typed, unit, ways.value),
    /** What a jar holds. */
    volume: (litres: number) => {
      const n = Math.round(100 * units.productShown(litres, 'litres', ways.value)) / 100
      const unit = units.productUnit('litres', ways.value)
      return `${units.writeNumber(n, decimal.value)} ${n === 1 ? unit.replace(/s$/, '') : unit}`
    },
    /** Seeds to the gram, or to the ounce. */
    perMass: (seedsPerG: number) => units.perMass(seedsPerG, ways.value),
    distance: (m: number) => units.distance(m, ways.value),
    /** A typed number by the household's habit: null when nothing is typed, NaN when it is none. */
    numberOf: (text: string) => units.readNumber(text, decimal.value),
    written: (value: number | string | undefined) => units.writeNumber(value, decimal.value),
    read: (text: string | undefined) => units.plainNumber(text ?? '', decimal.value),
  }
}
