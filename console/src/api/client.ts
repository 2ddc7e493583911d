import { ref } from 'vue'
import { credentials } from './session'
import type { components } from './schema'

type Schemas = components['schemas']
export type Book = Schemas['Book']
export type Overview = Schemas['Overview']
export type Status = Schemas['Status']
export type StatusList = Schemas['StatusList']
export type StatusSetting = Schemas['StatusSetting']
export type OrderStatuses = Schemas['OrderStatuses']
/** What a question asks, for its sentence. */
export interface Asked {
  sentence: string
  sentence_parts: readonly { text: string; slot?: string }[]
  from: string
  to: string
  unit: string
  count_rule: string
  calendar: string
  heading: string
  where?: string
  basis: string
  by: readonly string[]
  through: readonly string[]
  promise?: string
}
export type Order = Schemas['Order']
export type Layout = Schemas['Layout']
export type Layouts = Schemas['Layouts']
export type Load = Schemas['Load']
export type Loads = Schemas['Loads']
export type Progress = Schemas['Progress']
export type StripDay = Schemas['StripDay']
export type Calendar = Schemas['Calendar']
export type Calendars = Schemas['Calendars']
export type CalendarDay = Schemas['CalendarDay']
export type CalendarDefinition = Schemas['CalendarDefinition']
export type CalendarEffect = Schemas['CalendarEffect']
export type CalendarComparison = Schemas['CalendarComparison']
export type DaysAnswer = Schemas['DaysAnswer']
export type Values = Schemas['Values']
export type Condition = Schemas['Condition']
export type Picked = Schemas['Pick']
export type Check = Schemas['Check']
export type Checks = Schemas['Checks']
export type Readings = Schemas['Readings']
export type Statement = Schemas['Statement']
export type Label = Schemas['Label']
export type LabelDefinition = Schemas['LabelDefinition']
export type Labels = Schemas['Labels']
export type View = Schemas['View']
export type Views = Schemas['Views']

/** What a file leaves open: one of the answers is given in the word. */
export interface FileQuestion {
  word: string
  /** The file or, of an archive or a workbook, the table in it. */
  file: string
  /** Empty where the file as a whole is asked about. */
  column: string
  asks: string
  answers: string[]
}

/** What the service says when it refuses a request or fails (RFC 9457). */
export class Problem extends Error {
  constructor(
    readonly status: number,
    detail: string,
    readonly questions: FileQuestion[] = [],
    /** The parameter at fault, where one is. */
    readonly parameter?: string,
  ) {
    super(detail)
  }

  /** The service is gone, or PostgreSQL is: asking again can help. A question that took too long (504) would take as long again. */
  get passing() {
    return [0, 502, 503].includes(this.status)
  }
}

/** Query parameters; an empty word is left out, a list is repeated. */
export type Query = Record<string, string | number | readonly string[] | undefined>

/** Query parameters as an address has them. */
export function search(query: Query): string {
  const parameters = new URLSearchParams()
  for (const [name, value] of Object.entries(query)) {
    if (Array.isArray(value)) value.forEach((v: string) => parameters.append(name, v))
    else if (value !== undefined && value !== '') parameters.set(name, String(value))
  }
  const text = parameters.toString()
  return text ? `?${text}` : ''
}

/** Asks the service; throws a Problem where it refuses or does not answer. */
export function get<T>(path: string, query: Query, signal?: AbortSignal): Promise<T> {
  if (early?.path !== path || Object.keys(query).length > 0) return call<T>(path, query, { signal })
  const { answer } = early
  early = undefined
  return answer as Promise<T>
}

let early: { path: string; answer: Promise<unknown> } | undefined

/**
 * Asks for what a page is going to ask first, while its script is still on its way. What was asked for an earlier page is not
 * taken any more: it would look fresh.
 */
export function askEarly(path: string | undefined) {
  early = path ? { path, answer: call<unknown>(path, {}, {}) } : undefined
  early?.answer.catch(() => {}) // whoever takes it hears of it
}

/** Sends to the service; throws a Problem where it refuses or does not answer. */
export function send<T>(path: string, query: Query, body?: FormData, signal?: AbortSignal): Promise<T> {
  return call<T>(path, query, { method: 'POST', body, signal })
}

/** Takes something away; throws a Problem where the service refuses or does not answer. */
export function remove<T>(path: string): Promise<T> {
  return call<T>(path, {}, { method: 'DELETE' })
}

/** Sends a body as JSON; throws a Problem where the service refuses or does not answer. */
export function sendJSON<T>(
  method: 'POST' | 'PUT',
  path: string,
  query: Query,
  body: unknown,
  signal?: AbortSignal,
): Promise<T> {
  const headers = { 'Content-Type': 'application/json' }
  return call<T>(path, query, { method, body: JSON.stringify(body), headers, signal })
}

/** What the service says that whoever reads its answers has to know now; empty where there is nothing. */
export const notice = ref('')

/** The load after which the records are asked for as they were; the address of the page says it. */
export const asOf = ref(new URLSearchParams(location.search).get('as_of_load') ?? '')

/** What asks of the records, and so can ask of them as they were. */
const asks = (path: string, request: RequestInit) =>
  (request.method ?? 'GET') === 'GET' || path === '/check' || path === '/checks/run'

/** Asks the service as this browser; throws a Problem where it refuses or does not answer. */
async function ask(path: string, query: Query, request: RequestInit): Promise<Response> {
  let response: Response
  try {
    const headers = { ...(request.headers as Record<string, string> | undefined), ...credentials() }
    const asked = asOf.value && asks(path, request) ? { ...query, as_of_load: asOf.value } : query
    response = await fetch(`/api/v1${path}${search(asked)}`, { ...request, headers })
  } catch (error) {
    if (request.signal?.aborted) throw error
    throw new Problem(0, 'The service does not answer. Is it still up?')
  }
  notice.value = response.headers.get('Prairie-Dusk-Notice') ?? ''
  if (response.ok) return response
  const body = (await response.json().catch(() => ({}))) as {
    detail?: string
    errors?: { message: string; location?: string; value?: unknown }[]
  }
  throw new Problem(
    response.status,
    body.errors?.[0]?.message ?? body.detail ?? response.statusText,
    (body.errors ?? []).flatMap((e) => asked(e.location, e.value)),
    /^query\.(\w+)/.exec(body.errors?.[0]?.location ?? '')?.[1],
  )
}

/** The question in an error of a problem; none in most. */
function asked(location?: string, value?: unknown): FileQuestion[] {
  const question = value as Partial<FileQuestion> | undefined
  if (!question?.asks || !question.answers) return []
  const { file = '', column = '', asks, answers } = question
  return [{ word: (location ?? '').replace(/^query\./, ''), file, column, asks, answers }]
}

async function call<T>(path: string, query: Query, request: RequestInit): Promise<T> {
  return (await (await ask(path, query, request)).json()) as T
}

/** Saves a file of the service under the name that it gives; throws a Problem where the service refuses or does not answer. */
export async function download(path: string, query: Query, name: string): Promise<void> {
  const response = await ask(path, query, {})
  const given = /filename="([^"]+)"/.exec(response.headers.get('Content-Disposition') ?? '')?.[1]
  const link = document.createElement('a')
  link.href = URL.createObjectURL(await response.blob())
  link.download = given ?? name
  link.click()
  setTimeout(() => URL.revokeObjectURL(link.href), 60_000)
}

/** Hears what the service tells as server-sent events, until it ends or is told to. */
export async function listen<T>(
  path: string,
  hear: (message: T) => void,
  signal: AbortSignal,
): Promise<void> {
  const response = await ask(path, {}, { signal, headers: { Accept: 'text/event-stream' } })
  const reader = response.body?.pipeThrough(new TextDecoderStream()).getReader()
  if (!reader) return
  let rest = ''
  for (;;) {
    const { done, value } = await reader.read()
    if (done) return
    const lines = (rest + value).split('\n')
    rest = lines.pop() ?? ''
    for (const line of lines) if (line.startsWith('data:')) hear(JSON.parse(line.slice(5)) as T)
  }
}
