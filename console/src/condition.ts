// Conditions on orders as they are picked, and as text in the Common Expression Language.

/** What a subject is. */
export type Kind = 'text' | 'day' | 'number'

/** A comparison in words, and how it is written. */
export interface Comparison {
  /** As the service names it. */
  name: string
  words: string
  takesValue: boolean
  write: (subject: string, value: string) => string
}

const operator = (words: string, symbol: string): Comparison => ({
  name: symbol,
  words,
  takesValue: true,
  write: (subject, value) => `${subject} ${symbol} ${value}`,
})

const asks = (words: string, name: string): Comparison => ({
  name,
  words,
  takesValue: true,
  write: (subject, value) => `${subject}.${name}(${value})`,
})

const fixed = (name: string, words: string, symbol: string): Comparison => ({
  name,
  words,
  takesValue: false,
  write: (subject) => `${subject} ${symbol} null`,
})

const missing = [fixed('missing', 'is missing', '=='), fixed('not missing', 'is not missing', '!=')]

const comparisons: Record<Kind, Comparison[]> = {
  text: [
    operator('is', '=='),
    operator('is not', '!='),
    asks('starts with', 'startsWith'),
    asks('ends with', 'endsWith'),
    asks('contains', 'contains'),
    asks('matches', 'matches'),
    ...missing,
  ],
  day: [
    operator('is on', '=='),
    operator('is not on', '!='),
    operator('is before', '<'),
    operator('is on or before', '<='),
    operator('is after', '>'),
    operator('is on or after', '>='),
    ...missing,
  ],
  number: [
    operator('is over', '>'),
    operator('is at least', '>='),
    operator('is under', '<'),
    operator('is at most', '<='),
    operator('is', '=='),
    operator('is not', '!='),
    ...missing,
  ],
}

/** The comparisons that a kind of subject takes; each says whether it is strict. */
export function comparisonsOf(kind: Kind): readonly Comparison[] {
  return comparisons[kind]
}

/** The text of a picked condition; nothing while its value is none yet. */
export function conditionOf(
  subject: { name: string; kind: Kind },
  comparison: Comparison,
  value: string,
): string | undefined {
  const part = ofPart.exec(subject.name)
  if (part?.[1] && part[2]) {
    const inner = conditionOf({ name: `l.${part[2]}`, kind: subject.kind }, comparison, value)
    return inner && `${part[1]}.exists(l, ${inner})`
  }
  const name = nameOf(subject.name)
  if (!comparison.takesValue) return comparison.write(name, '')
  if (value === '') return undefined
  if (subject.kind === 'number')
    return /^-?\d+(\.\d+)?$/.test(value) ? comparison.write(name, value) : undefined
  if (subject.kind === 'day' && !/^\d{4}-\d\d-\d\d$/.test(value)) return undefined
  return comparison.write(name, JSON.stringify(value))
}

/** Words that are functions or belong to the language cannot stand by themselves. */
const taken = ['days', 'weeks', 'hours', 'in', 'true', 'false', 'null', 'field']

/** A field or milestone as it is written; a length is written already. */
function nameOf(name: string): string {
  if (name.includes('(')) return name
  if (name.startsWith('l.')) return name.replaceAll('-', '_')
  const word = name.replaceAll('-', '_')
  const plain = /^[a-z_][a-z0-9_]*$/i.test(word) && !taken.includes(word)
  return plain ? word : `field(${JSON.stringify(name)})`
}

/** A subject that is a column of lines, shipments or payments: some of an order's has to be so. */
const ofPart = /^(lines|shipments|payments)\.(.+)$/

/** Two conditions as one; what was there keeps its meaning. */
export function joined(before: string, by: '&&' | '||', added: string): string {
  if (!before) return added
  const other = by === '&&' ? '||' : '&&'
  return `${before.includes(other) ? `(${before})` : before} ${by} ${added}`
}
