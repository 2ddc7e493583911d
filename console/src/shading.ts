import type { Column, Row, Table } from './api/document'

/** What a cell of a table is compared with to be shaded. */
export type Shade = 'all' | 'row' | 'column' | 'none'

type Range = readonly [low: number, high: number]

/** Whether the numbers of a column are compared. */
const compared = (c: Column | undefined) => c?.code.startsWith('key:') === true && !c.folded

function rangeOf(values: Iterable<number | undefined>): Range {
  let [low, high] = [Infinity, -Infinity]
  for (const value of values) {
    if (value === undefined) continue
    low = Math.min(low, value)
    high = Math.max(high, value)
  }
  return [low, high]
}

/** The ranges of a table, each made when it is asked for first: a table can have many thousands of cells. */
class Ranges {
  private all?: Range
  private readonly rows = new Map<Row, Range>()
  private readonly columns = new Map<number, Range>()

  constructor(private readonly table: Table) {}

  of(shade: Exclude<Shade, 'none'>, row: Row, at: number): Range {
    const { table } = this
    if (shade === 'all') {
      return (this.all ??= rangeOf(table.rows.flatMap((r) => [...this.ofRow(r)])))
    }
    const [kept, key, values] =
      shade === 'row'
        ? ([
            this.rows as Map<unknown, Range>,
            row,
            () => row.cells.filter((_, i) => compared(table.columns[i])).map((c) => c.number),
          ] as const)
        : ([
            this.columns as Map<unknown, Range>,
            at,
            () => table.rows.map((r) => r.cells[at]?.number),
          ] as const)
    const found = kept.get(key) ?? rangeOf(values())
    kept.set(key, found)
    return found
  }

  private ofRow(row: Row): Range {
    return this.of('row', row, 0)
  }
}

const made = new WeakMap<Table, Ranges>()

/** How much of the shade a cell has, from 0 to 1; undefined where it has none. */
export function shareOfShade(
  shade: Shade,
  table: Table,
  row: Row,
  column: Column,
  at: number,
): number | undefined {
  const value = row.cells[at]?.number
  if (value === undefined || shade === 'none' || !compared(column)) return undefined
  const ranges = made.get(table) ?? new Ranges(table)
  made.set(table, ranges)
  const [low, high] = ranges.of(shade, row, at)
  return high > low ? (value - low) / (high - low) : undefined
}
