import { type MaybeRefOrGetter, readonly, ref, shallowRef, toValue, watch } from 'vue'
import { asOf, get, Problem, type Query } from '@/api/client'

/** What is asked for: a path and its parameters. Undefined asks nothing. */
export interface Asked {
  path: string
  query: Query
  round?: number // asks again when it changes
}

/** How long after the service did not answer it is asked again, in milliseconds. */
const pause = 2000

/**
 * useAnswer asks the service whenever what is asked for changes. A newer question, or leaving the page,
 * cancels the older request; until the new answer is there, the old one stays.
 */
export function useAnswer<T>(asked: MaybeRefOrGetter<Asked | undefined>) {
  const answer = shallowRef<T>()
  const problem = shallowRef<Problem>()
  const loading = ref(false)
  const again = ref(0)
  watch(
    [() => JSON.stringify(toValue(asked)), asOf, again],
    (_now, _before, onCleanup) => {
      const now = toValue(asked)
      if (!now) {
        answer.value = undefined
        return
      }
      const control = new AbortController()
      let timer = 0
      onCleanup(() => {
        control.abort()
        clearTimeout(timer)
      })
      loading.value = true
      get<T>(now.path, now.query, control.signal)
        .then((got) => {
          answer.value = got
          problem.value = undefined
          loading.value = false
        })
        .catch((error: unknown) => {
          if (control.signal.aborted) return
          problem.value = error instanceof Problem ? error : new Problem(0, String(error))
          loading.value = false
          if (problem.value.passing) timer = window.setTimeout(() => again.value++, pause)
        })
    },
    { immediate: true },
  )
  return { answer, problem, loading: readonly(loading), retry: () => again.value++ }
}
