import { cellOf, type Document, numberOf, tableOf } from '@/api/document'

/** An order over its days. */
export interface Bar {
  number: string
  start: string
  /** Missing while the order is open. */
  close?: string
  cancelled: boolean
  state: string
  /** Why it counts, in words. */
  reason: string
  age: number | null
  /** The days that its calendar does not work. */
  off: readonly string[]
}

/** The orders of a page of a timeline. */
export function barsOf(document: Document): Bar[] {
  const part = document.parts[0]
  const off = new Map<string, string[]>()
  for (const row of tableOf(part, 'off').rows) {
    const calendar = row.cells[0]?.text ?? ''
    const days = off.get(calendar) ?? []
    days.push(row.cells[1]?.text ?? '')
    off.set(calendar, days)
  }
  const table = tableOf(part, 'timeline')
  return table.rows.map((row) => {
    const text = (code: string) => cellOf(table, row, code).text
    return {
      number: text('number'),
      start: text('start'),
      close: text('close') || undefined,
      cancelled: text('cancelled') === 'yes',
      state: text('state'),
      reason: text('reason'),
      age: numberOf(table, row, 'age'),
      off: off.get(text('calendar')) ?? [],
    }
  })
}

/** What a timeline is drawn over: how many orders, the days of the period, and the days that are shown. */
export function stretchOf(document: Document) {
  const part = document.parts[0]
  const [period, shown] = tableOf(part, 'days').rows.map((row) => ({
    from: row.cells[1]?.text ?? '',
    to: row.cells[2]?.text ?? '',
  }))
  const none = { from: '', to: '' }
  return { all: tableOf(part, 'timeline').all, period: period ?? none, shown: shown ?? none }
}
