import { analyses } from './check'
import type { Query } from './client'
import { cellOf, type Document, numeric, type Part, type Table } from './document'

/** What asks the question of an address; undefined where it is none. */
export function askedBy(question: string): { path: string; query: Query } | undefined {
  const [name, words] = question.split('?', 2)
  const path = Object.keys(analyses).find((of) => analyses[of] === name)
  if (!path) return undefined
  const query: Record<string, string[]> = {}
  new URLSearchParams(words).forEach((value, key) => (query[key] ??= []).push(value))
  return { path, query }
}

/** The table of a part whose numbers are checked. */
export function checkedTable(document: Document, part: Part): Table | undefined {
  return document.analysis === 'due' ? part.tables.find((t) => t.code === 'standings') : part.tables[0]
}

/** The numbers of a part that can be expected to be something: those of the table, and those of the lines below. */
export function numbersOf(document: Document, part: Part): string[] {
  const columns = checkedTable(document, part)?.columns.filter((c) => numeric(c) && !c.folded) ?? []
  const terms = part.lines.flatMap((l) => l.terms.filter((t) => !t.amount).map((t) => t.label))
  return [...new Set([...columns.map((c) => c.heading), ...terms])]
}

/** The rows of a part, by their names. */
export function rowsOf(document: Document, part: Part): string[][] {
  const table = checkedTable(document, part)
  if (!table) return []
  if (table.code === 'issues') return table.rows.map((row) => [cellOf(table, row, 'what').text])
  if (table.code === 'periods')
    return table.rows.map((row) => [cellOf(table, row, 'number').text, cellOf(table, row, 'sequence').text])
  const names = table.columns.findIndex(numeric)
  return table.rows.map((row) => row.cells.slice(0, names).map((cell) => cell.text))
}

/** A file or a text as the service takes it: its bytes in base 64. */
export function expectedFile(content: Blob, name: string): Promise<{ name: string; content: string }> {
  return new Promise((done, failed) => {
    const reader = new FileReader()
    reader.onload = () => done({ name, content: String(reader.result).split(',')[1] ?? '' })
    reader.onerror = () => failed(new Error(`${name} cannot be read`))
    reader.readAsDataURL(content)
  })
}
