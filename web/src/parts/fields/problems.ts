import { inject, onScopeDispose, provide, ref, type InjectionKey, type Ref } from 'vue'
import type { Problem } from '../../api/client'

/** What the larder said against the fields of one form: a refusal lands on the field it names. */
export type Problems = {
  said: Ref<Record<string, string>>
  join: (name: string) => void
}
export const PROBLEMS: InjectionKey<Problems> = Symbol('problems')

/** The names that the larder and a field share: "temperature" and "the temperature" are the same. */
const plain = (name: string) =>
  name
    .toLowerCase()
    .replaceAll('_', ' ')
    .replace(/^(a|an|the) /, '')

/** For a form: gathers its fields; `place` gives a problem to the field it names and says whether it did. */
export function provideProblems() {
  const said = ref<Record<string, string>>({})
  const names = new Set<string>()
  provide(PROBLEMS, { said, join: (name) => names.add(plain(name)) })
  return {
    said,
    clear: () => (said.value = {}),
    place(problem: Problem): boolean {
      const told = problem.problems.length
        ? problem.problems.map((p) => ({ field: plain(p.field), reason: p.reason }))
        : [{ field: plain(problem.field), reason: problem.message }]
      if (!told.every((t) => names.has(t.field))) return false
      said.value = Object.fromEntries(told.map((t) => [t.field, t.reason]))
      return true
    },
  }
}

/** For a field: what is said against it, by any of the names it goes by. */
export function useProblem(names: () => (string | undefined)[]) {
  const form = inject(PROBLEMS, null)
  for (const name of names()) if (name) form?.join(name)
  const own = ref('')
  onScopeDispose(() => (own.value = ''))
  return () => {
    const found = names().map((n) => (n ? form?.said.value[plain(n)] : ''))
    return found.find(Boolean) ?? ''
  }
}
