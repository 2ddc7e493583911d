import type { LocationQuery } from 'vue-router'

/** A question in the words of the address; a word that is missing takes the service's default. */
export interface Question {
  from?: string
  to?: string
  in?: string
  count?: string
  calendar?: string
  /** Whether cut-offs count: on, which is the default, or off. */
  cut_off?: string
  basis?: string
  period?: string
  by?: string
  where?: string
  /** Milestones between the two ends, with commas. */
  through?: string
  /** A plan, or a number of working days. */
  promise?: string
  over?: string
  at_least?: string
}

const words = [
  'from',
  'through',
  'to',
  'in',
  'count',
  'calendar',
  'cut_off',
  'basis',
  'period',
  'by',
  'where',
  'over',
  'at_least',
  'promise',
] as const

/** The slots of the question sentence. */
export type Slot = (typeof words)[number]

export function isSlot(text: string): text is Slot {
  return (words as readonly string[]).includes(text)
}

/** A word of a sentence that is a page's own: what it can be, and how that reads. */
export interface OwnWord {
  choices: readonly string[]
  names?: Readonly<Record<string, string>>
  chosen: string
  /** What can be typed besides the choices. */
  example?: string
}

/** A parameter of an address as one text: of one that stands there several times, all of them, as a list. */
export function textOf(value: LocationQuery[string] | undefined): string | undefined {
  return [value ?? []].flat().filter(Boolean).join(',') || undefined
}

/** Reads a question from an address. */
export function questionOf(query: LocationQuery): Question {
  const question: Question = {}
  for (const word of words) {
    const value = textOf(query[word])
    if (value) question[word] = value
  }
  return question
}

/** The question as parameters, for the service and for addresses. */
export function parameters(question: Question): Record<string, string | undefined> {
  return { ...question }
}

const selecting = ['behind', 'placed', 'state'] as const

/** Which of the selected orders are listed, in the words of the address. */
export type Selection = Partial<Record<(typeof selecting)[number], string | number>> & {
  /** One key for each grouping; an empty key is "none". */
  group?: readonly string[]
}

/** Reads a selection from an address. */
export function selectionOf(query: LocationQuery): Selection {
  const selection: Selection = {}
  for (const word of selecting) {
    const value = query[word]
    if (typeof value === 'string' && value) selection[word] = value
  }
  if (query.group !== undefined) selection.group = [query.group].flat().map((key) => key ?? '')
  return selection
}

/** The name of a milestone with another in its place where it is missing. */
const standsIn = /^(.+)-or-(.+)$/

/** What people call the day of a milestone; one with a stand-in says so. */
export function dateName(name: string, milestones: readonly { name: string; date: string }[]): string {
  const dateOf = (milestone: string) => milestones.find((m) => m.name === milestone)?.date ?? milestone
  const [, of, standIn] = standsIn.exec(name) ?? []
  return of && standIn ? `${dateOf(of)} (or ${dateOf(standIn)} where that is missing)` : dateOf(name)
}

/** Names for what the API calls by its words. */
export const labels: Record<string, string> = {
  elapsed: 'start day not counted',
  'both-ends': 'both ends counted',
}

/** How a choice reads in the sentence. */
export function labelOf(word: string): string {
  return labels[word] ?? word
}

/** How a grouping reads: month(shipped) is the month of the ship date. */
export function groupingName(name: string, milestones: readonly { name: string; date: string }[]): string {
  const [, step, of = ''] = /^([a-z-]+)\((.+)\)$/.exec(name) ?? []
  if (step) {
    const date = of.startsWith('line.')
      ? `line ${dateName(of.slice(5), milestones)}`
      : dateName(of, milestones)
    return `${groupingName(step, milestones)} of ${date}`
  }
  if (name === 'month-of-year') return 'month of the year'
  return name.replace(/^(line|shipment|payment)s\./, '$1 ').replaceAll('-', ' ')
}

/** Groupings as the choices of a field. */
export function groupingNames(
  names: readonly string[],
  milestones: readonly { name: string; date: string }[] = [],
): Record<string, string> {
  return Object.fromEntries(names.map((name) => [name, groupingName(name, milestones)]))
}
