import { computed, markRaw, onScopeDispose, ref, shallowRef } from 'vue'
import { type FileQuestion, type Load, listen, Problem, type Progress, type Query, send } from '@/api/client'

/** What share of a file is looked at to tell what it is, in bytes: its beginning, and slices of the rest. */
const startBytes = 256 * 1024
const sliceBytes = 32 * 1024
const slices = 8

/** A file that is to be imported, with what it looks like and what has been said of it. */
export interface Look {
  file: File
  /** Whether only its first rows have been looked at. */
  sample: boolean
  /** What they would bring, or why the file cannot be used. */
  load?: Load
  refused?: string
  /** What it has left open so far, answered or not. */
  questions: FileQuestion[]
  /** Answers by question; see keyOf. */
  answers: Record<string, string>
  /** What columns mean, by heading, where somebody has said so. */
  meanings: Record<string, string>
  /** Whether the dates of columns are plans, by heading, likewise. */
  plans: Record<string, boolean>
}

/** What an answer is kept under; dates and decimals are answered once for all columns of a file. */
export function keyOf(q: FileQuestion): string {
  return q.word === 'dates' || q.word === 'decimals' ? q.word : `${q.word} ${q.column}`
}

/** The questions of a file to which an answer is wanted, one where several columns want the same. */
export function questionsOf(look: Look): FileQuestion[] {
  const seen = new Set<string>()
  return look.questions.filter((q) => !seen.has(keyOf(q)) && seen.add(keyOf(q)))
}

/** Whole lines of a large file of lines; any other is taken whole. What is sorted by date tells its days of the month only further on. */
async function sampleOf(file: File): Promise<File> {
  if (file.size <= 2 * startBytes || !/\.(csv|tsv|txt|ndjson|jsonl)$/i.test(file.name)) return file
  const parts: ArrayBuffer[] = []
  for (let i = 0; i <= slices; i++) {
    const at = i === 0 ? 0 : startBytes + Math.floor(((file.size - startBytes) * i) / (slices + 1))
    const text = await file.slice(at, at + (i === 0 ? startBytes : sliceBytes)).arrayBuffer()
    const bytes = new Uint8Array(text)
    parts.push(text.slice(i === 0 ? 0 : bytes.indexOf(10) + 1, bytes.lastIndexOf(10) + 1))
  }
  return new File(parts, file.name)
}

/** What has been said of some files, as the service takes it. */
function said(looks: readonly Look[]): Query {
  const query: Record<string, string> = {}
  const lists = {
    map: [] as string[],
    plan: [] as string[],
    fact: [] as string[],
    calendar_of: [] as string[],
  }
  const notKnown = new Set<string>()
  for (const look of looks) {
    for (const [heading, meaning] of Object.entries(look.meanings)) lists.map.push(`${heading}=${meaning}`)
    for (const [heading, plan] of Object.entries(look.plans)) lists[plan ? 'plan' : 'fact'].push(heading)
    for (const q of questionsOf(look)) {
      const answer = look.answers[keyOf(q)]
      if (!answer) continue
      if (q.word === 'map') lists.map.push(q.column ? `${q.column}=${answer}` : answer)
      else if (q.word === 'plan' && q.column in look.plans) continue
      else if (q.word === 'plan') lists[answer === 'plan' ? 'plan' : 'fact'].push(q.column)
      else if (q.word === 'calendar_of') lists.calendar_of.push(`${q.column}=${answer}`)
      else if (q.word === 'not_known') answer.split(',').forEach((mark) => notKnown.add(mark))
      else query[q.word] = answer
    }
  }
  return { ...query, ...lists, not_known: [...notKnown].join(',') }
}

/** Whether something was said of a file that would be wrong of another. */
function hasAnswers(look: Look): boolean {
  return [look.answers, look.meanings, look.plans].some((said) => Object.keys(said).length > 0)
}

/** Files that are imported together: what was said of a file holds for no other. */
function groups(looks: readonly Look[]): Look[][] {
  const together = looks.filter((l) => !hasAnswers(l))
  return [...(together.length > 0 ? [together] : []), ...looks.filter(hasAnswers).map((l) => [l])]
}

/**
 * useLoad looks at files, imports them, all or none, and tells meanwhile how far that is. A load that is
 * cancelled, or left with the page, leaves no trace.
 */
export function useLoad() {
  const looks = ref<Look[]>([])
  const progress = shallowRef<Progress>()
  const loaded = shallowRef<Load>()
  const problem = shallowRef<Problem>()
  /** Why many rows would be set aside, where only a yes is missing. */
  const doubtful = ref<string[]>([])
  const running = ref(false)
  let control = new AbortController()
  onScopeDispose(() => control.abort())

  async function add(files: Iterable<File>) {
    loaded.value = problem.value = undefined
    for (const file of files) {
      looks.value = looks.value.filter((l) => l.file.name !== file.name)
      looks.value.push({
        file: markRaw(file),
        sample: false,
        questions: [],
        answers: {},
        meanings: {},
        plans: {},
      })
      const look = looks.value.at(-1)
      if (look) await recheck(look)
    }
  }

  /** Files are looked at one after the other: the service takes one at a time. */
  let looking = Promise.resolve()

  /** Looks at a file anew, by what has been said of it. */
  function recheck(look: Look): Promise<void> {
    looking = looking.then(() => lookAt(look))
    return looking
  }

  async function lookAt(look: Look) {
    if (!looks.value.includes(look)) return
    const some = await sampleOf(look.file)
    look.sample = some.size < look.file.size
    try {
      const load = await send<Load>('/loads', { check_only: 'true', ...said([look]) }, form([some]))
      look.load = markRaw(load)
      look.refused = undefined
    } catch (error) {
      if (error instanceof Problem && error.questions.length > 0) {
        ask(look, error.questions)
        look.refused = undefined
      } else {
        look.refused = textOf(error)
      }
      look.load = undefined
    }
  }

  function ask(look: Look, questions: FileQuestion[]) {
    for (const q of questions) {
      const known = look.questions.findIndex((other) => keyOf(other) === keyOf(q))
      if (known < 0) look.questions.push(q)
      else look.questions[known] = q
      look.answers[keyOf(q)] = ''
    }
  }

  function answer(look: Look, q: FileQuestion, value: string) {
    look.answers[keyOf(q)] = value
    if (questionsOf(look).every((other) => look.answers[keyOf(other)])) void recheck(look)
  }

  function mean(look: Look, heading: string, meaning: string) {
    const asked = look.questions.find((q) => q.word === 'map' && q.column === heading)
    if (asked) look.answers[keyOf(asked)] = meaning
    else look.meanings[heading] = meaning
    void recheck(look)
  }

  function setPlan(look: Look, heading: string, plan: boolean) {
    look.plans[heading] = plan
    void recheck(look)
  }

  function remove(look: Look) {
    looks.value = looks.value.filter((l) => l !== look)
  }

  /** Imports the files; accepted says that rows may be set aside even if they are many. */
  async function bringIn(accepted = false) {
    control = new AbortController()
    running.value = true
    problem.value = undefined
    doubtful.value = []
    await looking
    const listening = new AbortController()
    // A bar that hears nothing stands still; the load goes on.
    void listen<Progress>('/loads/progress', (now) => (progress.value = now), listening.signal).catch(
      () => undefined,
    )
    try {
      for (const group of groups(looks.value)) {
        const query: Query = { ...said(group), ...(accepted ? { accept_set_aside: 'true' } : {}) }
        const files = group.map((l) => l.file)
        loaded.value = await send<Load>('/loads', query, form(files), control.signal)
        looks.value = looks.value.filter((l) => !group.includes(l))
      }
    } catch (error) {
      if (!control.signal.aborted) refuse(error)
    }
    listening.abort()
    progress.value = undefined
    running.value = false
  }

  /** What the first rows of a file do not leave open, later ones can. */
  function refuse(error: unknown) {
    const questions = error instanceof Problem ? error.questions : []
    if (questions.length > 0 && questions.every((q) => q.word === 'accept_set_aside')) {
      doubtful.value = questions.map((q) => `${q.file}: ${q.asks}`)
      return
    }
    const open = questions.filter((q) => q.word !== 'accept_set_aside')
    for (const look of looks.value) {
      const own = open.filter((q) => q.file === look.file.name || q.file.startsWith(`${look.file.name},`))
      if (own.length === 0) continue
      ask(look, own)
      look.load = undefined
    }
    problem.value = error instanceof Problem ? error : new Problem(0, String(error))
  }

  return {
    looks,
    progress,
    loaded,
    problem,
    doubtful,
    running,
    add,
    answer,
    mean,
    setPlan,
    remove,
    bringIn,
    apart: computed(() => groups(looks.value).length > 1),
    cancel: () => control.abort(),
  }
}

function textOf(error: unknown): string {
  return (error instanceof Error ? error.message : String(error)).replace(/^nothing was loaded: /, '')
}

function form(files: readonly File[]): FormData {
  const body = new FormData()
  for (const file of files) body.append('file', file)
  return body
}
