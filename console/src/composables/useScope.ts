import { computed, shallowRef, watch } from 'vue'
import { type LocationQuery, useRoute } from 'vue-router'
import { pages } from '@/pages'

/** What stays as one goes from page to page. */
const kept = ['period', 'where'] as const

const pick = (query: LocationQuery): LocationQuery =>
  Object.fromEntries(kept.flatMap((word) => (query[word] ? [[word, query[word]]] : [])))

const scope = shallowRef<LocationQuery>({})

/** useScope has the period and the condition of the last question, for the links to other pages. */
export function useScope() {
  const route = useRoute()
  watch(
    () => [route.path, ...kept.map((word) => route.query[word])],
    () => {
      if (pages.find((page) => page.path === route.path)?.scoped) scope.value = pick(route.query)
    },
    { immediate: true },
  )
  return computed(() => scope.value)
}
