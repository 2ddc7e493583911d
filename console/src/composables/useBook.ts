import { computed, onScopeDispose, ref, watch } from 'vue'
import type { Book } from '@/api/client'
import { useAnswer } from './useAnswer'

const everyHalfMinute = 30_000

/**
 * useBook describes the order book, looks again every half minute and whenever the page comes back into view,
 * and says when a newer load has come.
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
  /** Looks again after a change of one's own, which is no newer load. */
  function changed() {
    first.value = undefined
    round.value++
  }
  return { book: answer, problem, retry, newer, changed }
}
