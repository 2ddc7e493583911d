import { onScopeDispose, reactive, ref, shallowRef, watch } from 'vue'
import { type Load, listen, Problem, type Progress, send } from '@/api/client'

/** How much of a file is looked at to tell what it is, in bytes. */
const lookedAt = 256 * 1024

/** What a file looks like before it is brought in. */
export interface Look {
  file: File
  /** What its first rows would bring, or why it cannot be used. */
  load?: Load
  refused?: string
}

/** The start of a file of lines, cut after a whole one; any other is taken whole. */
async function startOf(file: File): Promise<File> {
  if (file.size <= lookedAt || !/\.(csv|tsv|txt|ndjson|jsonl)$/i.test(file.name)) return file
  const text = await file.slice(0, lookedAt).arrayBuffer()
  const end = new Uint8Array(text).lastIndexOf(10)
  return new File([text.slice(0, end + 1)], file.name)
}

/**
 * useLoad looks at files, brings them in, all or none, and tells meanwhile how far that is. A load that is
 * cancelled, or left with the page, leaves no trace.
 */
export function useLoad() {
  const looks = shallowRef<Look[]>([])
  /** What the files do not tell; empty words say nothing. */
  const reading = reactive({ dates: '', decimals: '' })
  watch(reading, () => void add(looks.value.map((l) => l.file)))
  const progress = shallowRef<Progress>()
  const loaded = shallowRef<Load>()
  const problem = shallowRef<Problem>()
  const running = ref(false)
  let control = new AbortController()
  onScopeDispose(() => control.abort())

  async function add(files: Iterable<File>) {
    loaded.value = problem.value = undefined
    for (const file of files) {
      const look: Look = { file }
      try {
        look.load = await send<Load>(
          '/loads',
          { check_only: 'true', ...reading },
          form([await startOf(file)]),
        )
      } catch (error) {
        look.refused = (error instanceof Error ? error.message : String(error)).replace(
          /^nothing was loaded: /,
          '',
        )
      }
      looks.value = [...looks.value.filter((l) => l.file.name !== file.name), look]
    }
  }

  function remove(look: Look) {
    looks.value = looks.value.filter((l) => l !== look)
  }

  async function bringIn() {
    control = new AbortController()
    running.value = true
    problem.value = undefined
    const listening = new AbortController()
    // A bar that hears nothing stands still; the load goes on.
    void listen<Progress>('/loads/progress', (now) => (progress.value = now), listening.signal).catch(
      () => undefined,
    )
    try {
      loaded.value = await send<Load>(
        '/loads',
        { ...reading },
        form(looks.value.map((l) => l.file)),
        control.signal,
      )
      looks.value = []
    } catch (error) {
      if (!control.signal.aborted) {
        problem.value = error instanceof Problem ? error : new Problem(0, String(error))
      }
    }
    listening.abort()
    progress.value = undefined
    running.value = false
  }

  return {
    looks,
    reading,
    progress,
    loaded,
    problem,
    running,
    add,
    remove,
    bringIn,
    cancel: () => control.abort(),
  }
}

function form(files: readonly File[]): FormData {
  const body = new FormData()
  for (const file of files) body.append('file', file)
  return body
}
