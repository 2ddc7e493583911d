import { onScopeDispose, ref, shallowReactive, shallowRef, watch } from 'vue'
import { get, Problem, type Query } from '@/api/client'
import { type Document, type Row, tableOf } from '@/api/document'

/** useList holds a long list of orders. */
export function useList(words: () => Query) {
  return usePages<Document, Row>('/orders', words, (page) => tableOf(page.parts[0], 'orders').rows)
}

/** How many rows are asked for at a time. */
const pageSize = 100

/**
 * usePages holds a long list of which only what is looked at is fetched. When what is asked for changes, the old list
 * stays until the new one is there; so it does when a newer load has come while one scrolls. Undefined words ask nothing.
 */
export function usePages<Page extends { version: number }, Row>(
  path: string,
  words: () => Query | undefined,
  rowsOf: (page: Page) => readonly Row[],
) {
  const list = shallowRef<Page>()
  const problem = shallowRef<Problem>()
  const loading = ref(false)
  const again = ref(0)
  const pages = shallowReactive(new Map<number, readonly Row[]>())
  const asked = new Set<number>()
  let control = new AbortController()
  onScopeDispose(() => control.abort())

  function fetchPage(page: number, signal: AbortSignal) {
    const query = { ...words(), offset: page * pageSize, limit: pageSize }
    return get<Page>(path, query, signal)
  }

  function failed(error: unknown, signal: AbortSignal) {
    if (signal.aborted) return
    problem.value = error instanceof Problem ? error : new Problem(0, String(error))
    loading.value = false
  }

  watch(
    [() => JSON.stringify(words()), again],
    () => {
      control.abort()
      control = new AbortController()
      const { signal } = control
      if (!words()) {
        list.value = undefined
        return
      }
      loading.value = true
      fetchPage(0, signal)
        .then((got) => {
          pages.clear()
          asked.clear()
          asked.add(0)
          pages.set(0, rowsOf(got))
          list.value = got
          problem.value = undefined
          loading.value = false
        })
        .catch((error: unknown) => failed(error, signal))
    },
    { immediate: true },
  )

  /** Asks for the rows from one to another, as far as they are not there. */
  function need(first: number, last: number) {
    for (let page = Math.floor(first / pageSize); page <= Math.floor(last / pageSize); page++) {
      if (asked.has(page) || !list.value) continue
      asked.add(page)
      const { signal } = control
      const { version } = list.value
      fetchPage(page, signal)
        .then((got) => {
          if (got.version === version) pages.set(page, rowsOf(got))
          else again.value++
        })
        .catch((error: unknown) => {
          asked.delete(page)
          failed(error, signal)
        })
    }
  }

  /** Fetches the first rows, as many as are asked for. */
  async function load(rows: number) {
    const { signal } = control
    const version = list.value?.version
    for (let page = 0; page * pageSize < rows; page++) {
      if (pages.has(page)) continue
      asked.add(page)
      const got = await fetchPage(page, signal)
      if (got.version !== version) return void again.value++
      pages.set(page, rowsOf(got))
    }
  }

  /** A row, once it is there. */
  const rowAt = (i: number) => pages.get(Math.floor(i / pageSize))?.[i % pageSize]

  return { list, problem, loading, need, load, rowAt, retry: () => again.value++ }
}
