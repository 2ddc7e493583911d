import { ref } from 'vue'
import { Problem, remove as forget, sendJSON, type Views } from '@/api/client'
import { useAnswer } from './useAnswer'

const pathOf = (name: string) => `/views/${encodeURIComponent(name)}`

/** What is kept of a view. */
export interface ViewContent {
  address: string
  sentence: string
}

/** useViews changes what was kept under names; a name that is taken is told apart from all else that is refused. */
export function useViews() {
  const refused = ref('')
  const taken = ref(false)

  /** Says whether a change was made; why not stands in refused. */
  async function attempt(change: () => Promise<Views>): Promise<boolean> {
    refused.value = ''
    taken.value = false
    try {
      await change()
      return true
    } catch (error) {
      refused.value = error instanceof Error ? error.message : String(error)
      taken.value = error instanceof Problem && error.status === 409
      return false
    }
  }

  return {
    refused,
    taken,
    keep: (name: string, content: ViewContent, replace: boolean) =>
      attempt(() => sendJSON<Views>('PUT', pathOf(name), { replace: replace ? 'true' : undefined }, content)),
    rename: (name: string, to: string) =>
      attempt(() => sendJSON<Views>('POST', `${pathOf(name)}/rename`, {}, { name: to })),
    copy: (name: string, to: string) =>
      attempt(() => sendJSON<Views>('POST', `${pathOf(name)}/copy`, {}, { name: to })),
    remove: (name: string) => attempt(() => forget<Views>(pathOf(name))),
  }
}

/** useViewList lists the views; look asks again. */
export function useViewList() {
  const round = ref(0)
  const { answer, problem, retry } = useAnswer<Views>(() => ({
    path: '/views',
    query: {},
    round: round.value,
  }))
  return { views: answer, problem, retry, look: () => round.value++ }
}
