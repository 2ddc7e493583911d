import { onScopeDispose, reactive, ref, shallowRef, watch } from 'vue'
import { type ColumnQuestion, type Load, listen, Problem, type Progress, send } from '@/api/client'

/** How much of a file is looked at to tell what it is, in bytes. */
const lookedAt = 256 * 1024

/** What a file looks like before it is brought in. */
export interface Look {
  file: File
  /** What its first rows would bring, or why it cannot be used. */
  load?: Load
  refused?: string
  /** What it leaves open about the meaning of its columns. */
  questions: ColumnQuestion[]
  /** Of its columns, as far as they are known. */
  headings: string[]
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
  /** What columns mean, by heading, where that was asked. */
  const meanings = ref<Record<string, string>>({})
  watch([reading, meanings], () => void add(looks.value.map((l) => l.file)))

  /** The answers about the columns of some files; a file must not be told of columns that it does not have. */
  function how(of: Look[]) {
    const headings = new Set(of.flatMap((l) => l.headings))
    return {
      ...reading,
      map: [...headings].flatMap((h) => (meanings.value[h] ? [`${h}=${meanings.value[h]}`] : [])),
    }
  }
  const progress = shallowRef<Progress>()
  const loaded = shallowRef<Load>()
  const problem = shallowRef<Problem>()
  const running = ref(false)
  let control = new AbortController()
  onScopeDispose(() => control.abort())

  async function add(files: Iterable<File>) {
    loaded.value = problem.value = undefined
    for (const file of files) {
      const before = looks.value.find((l) => l.file.name === file.name)
      const look: Look = { file, questions: before?.questions ?? [], headings: before?.headings ?? [] }
      try {
        look.load = await send<Load>(
          '/loads',
          { check_only: 'true', ...how([look]) },
          form([await startOf(file)]),
        )
        look.headings = (look.load.columns ?? []).map((c) => c.heading)
      } catch (error) {
        const open = error instanceof Problem ? error.questions : []
        for (const q of open.filter((q) => q.word === 'map')) {
          if (!look.questions.some((known) => known.column === q.column)) {
            look.questions.push(q)
            look.headings.push(q.column)
          }
        }
        look.refused = open.length > 0 ? stillOpen(open) : textOf(error)
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
        how(looks.value),
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
    meanings,
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

/** What a file still leaves open. */
function stillOpen(questions: ColumnQuestion[]): string {
  return questions.map((q) => `Column “${q.column}”: ${q.asks}.`).join(' ') + ' Say below which it is.'
}

function textOf(error: unknown): string {
  return (error instanceof Error ? error.message : String(error)).replace(/^nothing was loaded: /, '')
}

function form(files: readonly File[]): FormData {
  const body = new FormData()
  for (const file of files) body.append('file', file)
  return body
}
