import { computed, onScopeDispose, ref, watch } from 'vue'
import type { Book } from '@/api/client'
import { useAnswer } from './useAnswer'

const everyHalfMinute = 30_000

/** The scripts of the page, as the service names them. */
const scripts = (page: string) => [...page.matchAll(/<script[^>]+src="([^"]+)"/g)].map((m) => m[1]).join()
const own = scripts(document.documentElement.outerHTML)

/** Loads the page anew where the service that answers again is of another version. */
async function reloadWhereReplaced() {
  const page = await fetch('/').then(
    (r) => (r.ok ? r.text() : ''),
    () => '',
  )
  if (page && scripts(page) !== own) location.reload()
}

/**
 * useBook describes the order book, looks again every half minute and whenever the page comes back into view,
 * and says when a newer load has come, and when the service is gone.
 */
export function useBook() {
  const round = ref(0)
  const { answer, problem, retry } = useAnswer<Book>(() => ({ path: '/book', query: {}, round: round.value }))
  const look = () => {
    if (document.visibilityState === 'visible') round.value++
  }
  const timer = setInterval(look, everyHalfMinute)
  document.addEventListener('visibilitychange', look)
  onScopeDispose(() => {
    clearInterval(timer)
    document.removeEventListener('visibilitychange', look)
  })
  const first = ref<number>()
  watch(answer, (book) => (first.value ??= book?.version))
  const newer = computed(() => answer.value !== undefined && answer.value.version !== first.value)
  const gone = computed(() => answer.value !== undefined && problem.value?.passing === true)
  watch(gone, (is) => is || reloadWhereReplaced())
  /** Looks again after a change of one's own, which is no newer load. */
  function changed() {
    first.value = undefined
    round.value++
  }
  return { book: answer, problem, retry, newer, gone, changed }
}
