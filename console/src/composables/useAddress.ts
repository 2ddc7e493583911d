import { computed } from 'vue'
import { type LocationQueryRaw, useRoute, useRouter } from 'vue-router'

/** useAddress reads the parameters of a page from its address, and changes them there; an empty one takes its default. */
export function useAddress() {
  const route = useRoute()
  const router = useRouter()
  const text = (name: string) => {
    const value = route.query[name]
    return typeof value === 'string' && value ? value : undefined
  }
  /** Several parameters, by their names. */
  const some = <Name extends string>(names: readonly Name[]) =>
    Object.fromEntries(names.map((name) => [name, text(name)])) as Partial<Record<Name, string>>
  /** Goes to the page with some parameters changed; a new question begins with the first page of its rows. */
  const to = (changed: LocationQueryRaw) =>
    router.push({ query: { ...route.query, offset: undefined, ...changed } })
  const offset = computed(() => Number(text('offset') ?? 0) || 0)
  return { text, some, to, offset }
}
