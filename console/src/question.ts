import type { LocationQuery } from 'vue-router'

/** A question in the words of the address; a word that is missing takes the service's default. */
export interface Question {
  from?: string
  to?: string
  in?: string
  count?: string
  basis?: string
  period?: string
  by?: string
}

const words = ['from', 'to', 'in', 'count', 'basis', 'period', 'by'] as const

/** The slots of the question sentence. */
export type Slot = (typeof words)[number]

export function isSlot(text: string): text is Slot {
  return (words as readonly string[]).includes(text)
}

/** Reads a question from an address. */
export function questionOf(query: LocationQuery): Question {
  const question: Question = {}
  for (const word of words) {
    const value = query[word]
    if (typeof value === 'string' && value) question[word] = value
  }
  return question
}

/** The question as parameters, for the service and for addresses. */
export function parameters(question: Question): Record<string, string | undefined> {
  return { ...question }
}

/** Names for what the API calls by its words. */
export const labels: Record<string, string> = {
  'working-days': 'working days',
  elapsed: 'start day not counted',
  'both-ends': 'both ends counted',
}

/** How a choice reads in the sentence. */
export function labelOf(word: string): string {
  return labels[word] ?? word
}
