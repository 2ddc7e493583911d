import { computed, inject, reactive, ref, shallowRef, watch } from 'vue'
import {
  type Label,
  type LabelDefinition,
  type Labels,
  Problem,
  remove as forget,
  sendJSON,
} from '@/api/client'
import { CHANGED } from '@/keys'
import { useAnswer } from './useAnswer'

const pathOf = (name: string) => `/labels/${encodeURIComponent(name)}`

/** How long typing may pause before a label is tried, in milliseconds. */
const pause = 250

/** What an empty label begins with. */
const empty = (): LabelDefinition => ({ rules: [{ where: '', text: '' }], rest: '', missing: '' })

/**
 * useLabels lists the labels and lets one be written: what is written is tried on the orders as it stands, and kept only
 * when that is asked for.
 */
export function useLabels() {
  const changed = inject(CHANGED)
  const round = ref(0)
  const { answer, problem, retry } = useAnswer<Labels>(() => ({
    path: '/labels',
    query: {},
    round: round.value,
  }))
  const draft = reactive({ name: '', definition: empty(), was: '' })
  const tried = shallowRef<Label>()
  const refused = ref('')
  const taken = ref(false)

  const isWhole = computed(
    () => draft.name.trim() !== '' && draft.definition.rules.every((r) => r.where.trim() && r.text.trim()),
  )
  watch(
    () => JSON.stringify(draft),
    (_now, _before, onCleanup) => {
      taken.value = false
      if (!isWhole.value) {
        tried.value = undefined
        refused.value = ''
        return
      }
      const control = new AbortController()
      const timer = setTimeout(() => {
        sendJSON<Label>('POST', `${pathOf(draft.name)}/try`, {}, draft.definition, control.signal)
          .then((got) => {
            tried.value = got
            refused.value = ''
          })
          .catch((error: unknown) => {
            if (control.signal.aborted) return
            tried.value = undefined
            refused.value = error instanceof Error ? error.message : String(error)
          })
      }, pause)
      onCleanup(() => {
        clearTimeout(timer)
        control.abort()
      })
    },
  )

  /** Begins a label, or changes one that is kept. */
  function write(label?: Label) {
    draft.name = draft.was = label?.name ?? ''
    draft.definition = label ? (JSON.parse(JSON.stringify(label.definition)) as LabelDefinition) : empty()
    tried.value = undefined
    refused.value = ''
  }

  /** Says whether a change was made; why not stands in refused. */
  async function attempt(change: () => Promise<unknown>): Promise<boolean> {
    refused.value = ''
    try {
      await change()
    } catch (error) {
      refused.value = error instanceof Error ? error.message : String(error)
      taken.value = error instanceof Problem && error.status === 409
      return false
    }
    round.value++
    changed?.()
    return true
  }

  async function save(replace: boolean) {
    const query = { replace: replace || draft.was === draft.name ? 'true' : undefined }
    if (await attempt(() => sendJSON<Label>('PUT', pathOf(draft.name), query, draft.definition))) write()
  }

  const remove = (name: string) => attempt(() => forget<Labels>(pathOf(name)))

  return { labels: answer, problem, retry, draft, tried, refused, taken, isWhole, write, save, remove }
}
