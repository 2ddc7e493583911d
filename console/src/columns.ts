// The columns of a list, as they are written in its address.

import type { Column, Highlight, Row, Table } from '@/api/document'

/** A column as it is written. */
export type WrittenColumn = Pick<Column, 'code' | 'heading' | 'own' | 'width'>

/** The columns as one text. */
export function columnsText(columns: readonly WrittenColumn[]): string {
  return columns
    .map(
      (c) => c.code + (c.own ? ` as ${JSON.stringify(c.heading)}` : '') + (c.width ? ` wide ${c.width}` : ''),
    )
    .join(', ')
}

/** The list with a column in another place. */
export function moved<T>(list: readonly T[], from: number, to: number): T[] {
  const next = [...list]
  next.splice(to, 0, ...next.splice(from, 1))
  return next
}

const canvas = document.createElement('canvas').getContext('2d')

/** The width of a tabular figure, which a canvas does not know of, for each pixel of size. */
const figure = 0.645

/** How wide a text is drawn, in pixels. */
function drawn(text: string, weight: number, size: number): number {
  const letters = text.replace(/[\d-]/g, '')
  const figures = (text.length - letters.length) * figure * size
  if (!canvas) return figures + letters.length * 8
  canvas.font = `${weight} ${size}px 'Inter Variable', system-ui, sans-serif`
  return figures + canvas.measureText(letters).width
}

/** What surrounds a cell, and what stands beside a heading: its arrow and its menu. */
const around = 23
const beside = 34

/** How wide a column is, in pixels: as it was set, or as its first cells and its heading need. */
export function widthOf(list: Table, i: number): number {
  const column = list.columns[i]
  if (!column) return 0
  if (column.width) return column.width
  const words = column.heading.split(' ').map((w) => drawn(w, 500, 13))
  const heading = Math.max(...words, drawn(column.heading, 500, 13) / 2.9) + beside
  const cells = list.rows.map((r) => drawn(r.cells[i]?.text ?? '', 400, 13.5))
  const sum = list.totals[0]?.cells[i]?.text ?? ''
  const foot = sum.includes(' + ') ? 0 : drawn(sum, 600, 13.5)
  const sign = list.highlights?.some((m) => m.column === i || (i === 0 && m.column < 0)) ? 20 : 0
  return Math.round(Math.min(300, Math.max(heading, ...cells, foot) + around + sign))
}

/** The highlight of a row, or of one of its cells. */
export function highlightOf(list: Table, of: Pick<Row, 'highlight'> | undefined): Highlight | undefined {
  return of?.highlight ? list.highlights?.[of.highlight - 1] : undefined
}

/** The styles of highlights, each with a sign, so that nobody needs to see a colour. */
export const styles: Readonly<Record<string, string>> = { amber: '◆', teal: '●', plum: '▲', faint: '·' }

/** A highlight as it is written; its column by its heading. */
export function highlightText(style: string, column: string, where: string): string {
  return `${style}${column ? ` on ${column}` : ''}: ${where}`
}

/** A highlight in words. */
export function highlightWords(highlight: Highlight, columns: readonly Column[]): string {
  const on = columns[highlight.column]?.heading
  return (on ? `${on}: ` : '') + highlight.where
}
