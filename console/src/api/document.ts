import type { RouteLocationRaw } from 'vue-router'
import type { components } from './schema'
import type { Asked } from './client'
import { withWeekday } from '@/format'
import type { Question } from '@/question'

type Schemas = components['schemas']
export type Document = Schemas['AnswerDocument']
export type Part = Schemas['AnswerPart']
export type Table = Schemas['AnswerTable']
export type Column = Schemas['AnswerColumn']
export type Row = Schemas['AnswerRow']
export type Cell = Schemas['AnswerCell']
export type Line = Schemas['AnswerLine']
export type Highlight = Schemas['AnswerHighlight']

/** A table of a part by its code; an empty one where there is none. */
export function tableOf(part: Part | undefined, code: string): Table {
  const found = part?.tables.find((t) => t.code === code)
  return found ?? { code, columns: [], rows: [], totals: [], all: 0 }
}

/** A cell by the code of its column. */
export function cellOf(table: Table, row: Row | undefined, code: string): Cell {
  return row?.cells[table.columns.findIndex((c) => c.code === code)] ?? { text: '' }
}

/** The number in a cell; null where there is none. */
export function numberOf(table: Table, row: Row | undefined, code: string): number | null {
  return cellOf(table, row, code).number ?? null
}

/** Whether the cells of a column are numbers. */
export const numeric = (c: Column) => ['count', 'number', 'percent'].includes(c.kind)

/** The columns that name a row: the first one, and the texts that follow on it. */
export function namesOf(table: Table): readonly Column[] {
  return table.columns.slice(
    0,
    Math.max(
      1,
      table.columns.findIndex((c) => c.kind !== 'text'),
    ),
  )
}

/** A table as a file has it: its headings, then all rows, numbers as numbers. */
export function recordsOf(table: Table): (string | number)[][] {
  const rows = [...table.rows, ...table.totals]
  const remarked = rows.some((row) => row.remarks?.length)
  return [
    [
      ...table.columns.map((c) => (c.shared ? `${c.heading}, ${c.shared}` : c.heading)),
      ...(remarked ? ['remarks'] : []),
    ],
    ...rows.map((row) => [
      ...row.cells.map((c) => c.number ?? c.text),
      ...(remarked ? [row.remarks?.join(', ') ?? ''] : []),
    ]),
  ]
}

/** The name of a row, with what has to be known to read it. */
export function rowName(table: Table, row: Row): string {
  const names = row.cells.slice(0, namesOf(table).length).map((c) => c.text)
  return names.join(', ') + remarks(row)
}

/** What has to be known to read a row, in brackets. */
export function remarks(row: Row): string {
  return row.remarks?.length ? ` (${row.remarks.join(', ')})` : ''
}

/** What a cell shows: a day with its weekday, and in the first column what has to be known to read the row. */
export function shownText(row: Row, column: Column, i: number): string {
  const said = row.cells[i]?.text ?? ''
  return (
    (column.kind === 'day' && /^\d/.test(said) ? withWeekday(said) : said) + (i === 0 ? remarks(row) : '')
  )
}

/** The page of the orders behind a number. */
export function ordersBehind(address: string | undefined, columns?: string): RouteLocationRaw | undefined {
  return address ? { path: '/orders', query: { behind: address, columns } } : undefined
}

/** The question of a document, in the words of the address, with what the page takes where the address is silent. */
export function askedOf(document: Document, question: Question): Asked {
  const from = question.from ?? 'ordered'
  return {
    sentence: document.sentence.map((w) => w.text).join(''),
    sentence_parts: document.sentence,
    from,
    to: question.to ?? 'shipped',
    unit: question.in ?? 'working-days',
    count_rule: question.count ?? 'elapsed',
    calendar: question.calendar ?? 'site',
    heading: '',
    where: question.where,
    basis: question.basis ?? from,
    by: question.by?.split(',') ?? [],
    through: question.through?.split(',') ?? [],
    promise: question.promise,
  }
}
