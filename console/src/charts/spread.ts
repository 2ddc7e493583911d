import { cellOf, numberOf, ordersBehind, type Part, tableOf } from '@/api/document'
import type { Point } from './frame'

/** What lies between the shortest and the longest length of a group, of a leg, or of all. */
export interface Spread {
  name: string
  /** The second key of a group of two groupings. */
  other: string
  asked: number
  n: number
  running: number
  p10: number | null
  p25: number | null
  median: number | null
  p75: number | null
  p90: number | null
  mean: number | null
  small: boolean
  /** It is a step of time, which the records or the period do not cover whole, or in which the book begins. */
  step: boolean
  cut: boolean
  begins: boolean
  to: Point['to']
}

/** A set of groups of a part: groups, rows, columns, legs or all. */
export function spreadOf(part: Part, set: 'groups' | 'rows' | 'columns' | 'legs' | 'all'): Spread[] {
  const table = tableOf(part, 'spread')
  return table.rows
    .filter((row) => cellOf(table, row, 'set').text === set)
    .map((row) => {
      const figure = (code: string) => numberOf(table, row, code)
      const remark = (text: string) => row.remarks?.includes(text) ?? false
      return {
        name: cellOf(table, row, 'name').text,
        other: cellOf(table, row, 'other').text,
        asked: figure('asked') ?? 0,
        n: figure('n') ?? 0,
        running: figure('running') ?? 0,
        p10: figure('p10'),
        p25: figure('p25'),
        median: figure('median'),
        p75: figure('p75'),
        p90: figure('p90'),
        mean: figure('mean'),
        small: remark('few'),
        step: row.from !== undefined,
        cut: remark('part'),
        begins: remark('book begins'),
        to: ordersBehind(cellOf(table, row, 'n').behind),
      }
    })
}
