import { computed } from 'vue'
import { type LocationQueryRaw, useRoute, useRouter } from 'vue-router'
import { textOf } from '@/question'

/** useAddress reads the parameters of a page from its address, and changes them there; an empty one takes its default. */
export function useAddress() {
  const route = useRoute()
  const router = useRouter()
  const text = (name: string) => textOf(route.query[name])
  /** Several parameters, by their names. */
  const some = <Name extends string>(names: readonly Name[]) =>
    Object.fromEntries(names.map((name) => [name, text(name)])) as Partial<Record<Name, string>>
  /** Goes to the page with some parameters changed; a new question begins with the first page of its rows. */
  const to = (changed: LocationQueryRaw) =>
    router.push({ query: { ...route.query, offset: undefined, ...changed } })
  /** Closes the sheet of an order: back to where it was opened, so that it leaves nothing behind in the history. */
  const closeOrder = () => {
    const query = { ...route.query, order: undefined }
    if (router.options.history.state.back === router.resolve({ query }).fullPath) router.back()
    else void router.replace({ query })
  }
  const offset = computed(() => Number(text('offset') ?? 0) || 0)
  return { text, some, to, closeOrder, offset }
}
