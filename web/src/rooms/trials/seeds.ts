/** Each seed of a test as it lies: a letter for each, as the core counts them. */
export const NAMES: Record<string, string> = { u: 'normal', a: 'abnormal', m: 'mouldy', h: 'hard', f: 'fresh', e: 'empty', g: 'gone' } // prettier-ignore
export const LETTERS: Record<string, string> = Object.fromEntries(
  Object.entries(NAMES).map(([letter, name]) => [name, letter]),
)
/** So many seeds are drawn; more are told by numbers. */
export const DRAWN_AT_MOST = 100

/** Seeds as they were laid, or, where only numbers are known, in the order of their states. */
export function laid(n: number, seeds: string, up: number, odd: Record<string, number>): string {
  const known = [...seeds].filter((s) => s === 'u').length
  if (seeds.length === n && known === up) return seeds
  const told = 'u'.repeat(up) + Object.entries(odd).map(([k, v]) => (LETTERS[k] ?? 'w').repeat(v)).join('') // prettier-ignore
  return told.padEnd(n, 'w').slice(0, n)
}

export const countOf = (seeds: string, letter: string) => [...seeds].filter((s) => s === letter).length

/** So many of a state: the first that wait become it, or its last wait again; what cannot be is left. */
export function withCount(seeds: string, letter: string, wanted: number): string {
  const out = [...seeds]
  let have = countOf(seeds, letter)
  for (let i = 0; i < out.length && have < wanted; i++) {
    if (out[i] !== 'w' && out[i] !== 'c') continue
    out[i] = letter
    have++
  }
  for (let i = out.length - 1; i >= 0 && have > wanted; i--) {
    if (out[i] !== letter) continue
    out[i] = 'w'
    have--
  }
  return out.join('')
}

/** One seed set to an answer; the same answer again takes it back. */
export function tapped(seeds: string, at: number, answer: string): string {
  const out = [...seeds]
  out[at] = out[at] === answer ? 'w' : answer
  return out.join('')
}
