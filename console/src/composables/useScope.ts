import { computed, inject, shallowRef, watch } from 'vue'
import { type LocationQuery, useRoute } from 'vue-router'
import { BOOK } from '@/keys'
import { openingQuestion } from '@/opening'
import { type Page, pages } from '@/pages'

/** What stays as one goes from page to page. */
const kept = ['period', 'where'] as const

const pick = (query: LocationQuery): LocationQuery =>
  Object.fromEntries(kept.flatMap((word) => (query[word] ? [[word, query[word]]] : [])))

const scope = shallowRef<LocationQuery>({})

/**
 * useScope has the period and the condition of the last question, for the links to other pages; one without a period opens on
 * the last full months or quarters.
 */
export function useScope() {
  const route = useRoute()
  const book = inject(BOOK)
  watch(
    () => [route.path, ...kept.map((word) => route.query[word])],
    () => {
      if (pages.find((page) => page.path === route.path)?.scoped) scope.value = pick(route.query)
    },
    { immediate: true },
  )
  return computed(() => (page: Page): LocationQuery | undefined => {
    if (!page.scoped) return undefined
    const opening = book?.value && !scope.value.period ? openingQuestion(page.path, book.value) : {}
    return { ...opening, ...scope.value }
  })
}
