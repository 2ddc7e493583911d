import type { BarSeriesOption, SeriesOption } from 'echarts'
import {
  cellOf,
  type Cell,
  type Column,
  numberOf,
  ordersBehind,
  type Part,
  recordsOf,
  type Row,
  rowName,
  type Table,
  tableOf,
} from '@/api/document'
import { count } from '@/format'
import type { Tokens } from '@/theme'
import { bridge } from './bridge'
import { frame, legend, nameAxis, type Picture, tooltip, valueAxis } from './frame'

/** Looks that up to six dates or rows are told apart by, in more than their colour. */
function looks(t: Tokens) {
  const dashes = (gap: number, rotation: number) => ({
    symbol: 'rect' as const,
    dashArrayX: [1, 0] as [number, number],
    dashArrayY: [2, gap] as [number, number],
    rotation,
    color: `${t.surface}99`,
  })
  return [
    { colour: t.teal, line: 'solid' as const, mark: 'circle', decal: undefined },
    { colour: t.amber, line: 'dashed' as const, mark: 'triangle', decal: dashes(4, Math.PI / 4) },
    { colour: t.plum, line: 'dotted' as const, mark: 'rect', decal: dashes(3, 0) },
    { colour: t.muted, line: 'solid' as const, mark: 'diamond', decal: undefined },
    { colour: t.bad, line: 'dashed' as const, mark: 'emptyCircle', decal: dashes(5, -Math.PI / 4) },
    { colour: t.ink, line: 'dotted' as const, mark: 'emptyRect', decal: dashes(3, Math.PI / 2) },
  ]
}

/** What the numbers of a column are, for an axis. */
const unitOf = (column: Column | undefined) =>
  column?.kind === 'percent' ? 'percent' : column?.unit || 'orders'

interface Drawn {
  name: string
  cells: readonly Cell[]
}

/** Things beside each other over one axis: as lines where there are many steps of time, else as bars. */
function beside(
  names: readonly string[],
  drawn: readonly Drawn[],
  unit: string,
  asLines: boolean,
  t: Tokens,
): Omit<Picture, 'rows'> {
  const styles = looks(t)
  const words = (series: number, i: number) =>
    `${names[i] ?? ''}, ${drawn[series]?.name ?? ''}: ${drawn[series]?.cells[i]?.text || 'nothing'}`
  const series = drawn.map((d, s): SeriesOption => {
    const look = styles[s % styles.length]
    const data = d.cells.map((c) => c.number ?? null)
    if (asLines) {
      return {
        name: d.name,
        type: 'line',
        data,
        symbol: look?.mark,
        symbolSize: names.length > 60 ? 0 : 7,
        cursor: 'pointer',
        lineStyle: { type: look?.line, width: 2, color: look?.colour },
        itemStyle: { color: look?.colour },
      }
    }
    const bar: BarSeriesOption = {
      name: d.name,
      type: 'bar',
      data,
      cursor: 'pointer',
      itemStyle: { color: look?.colour, ...(look?.decal ? { decal: look.decal } : {}) },
      emphasis: { itemStyle: { borderColor: t.ink, borderWidth: 2 } },
    }
    return bar
  })
  return {
    height: 320,
    option: {
      ...frame(t),
      legend: legend(t),
      grid: { left: 72, right: 24, top: 44, bottom: 44 },
      xAxis: nameAxis(names, t),
      yAxis: valueAxis(unit, t, 56),
      tooltip: {
        ...tooltip(t),
        trigger: 'axis',
        formatter: (hit) => {
          const i = [hit].flat()[0]?.dataIndex ?? 0
          return drawn.map((_, s) => words(s, i)).join('\n')
        },
      },
      series,
    },
    points: names.flatMap((_, data) =>
      drawn.map((d, s) => ({
        words: words(s, data),
        to: ordersBehind(d.cells[data]?.behind),
        series: s,
        data,
      })),
    ),
  }
}

/** The columns that are drawn: those of numbers, without differences and what shares are of. */
const drawnOf = (table: Table) =>
  table.columns.filter(
    (c) => ['count', 'number', 'percent'].includes(c.kind) && !c.folded && !/^(less |per$)/.test(c.code),
  )

/** One figure by each of its dates over the same steps, on one axis and scale. It is pure. */
export function comparePicture(part: Part, t: Tokens): Picture {
  const table = tableOf(part, 'dates')
  const columns = drawnOf(table)
  // A step of which there is no data is left out: nought would be a figure.
  const absent = 'not in the book'
  const cellIn = (r: Row, code: string) =>
    cellOf(table, r, 'why').text === absent ? { text: absent } : cellOf(table, r, code)
  const drawn = columns.map((c) => ({
    name: `${c.heading}, ${c.shared ?? ''}`,
    cells: table.rows.map((r) => cellIn(r, c.code)),
  }))
  const names = table.rows.map((r) => rowName(table, r))
  const adds = columns.some(
    (c) => c.kind === 'count' || table.columns.some((x) => x.code === `less ${c.code}`),
  )
  return {
    ...beside(names, drawn, unitOf(columns[0]), names.length > 12 || !adds, t),
    rows: recordsOf(table),
  }
}

/** How many rows a picture draws beside each other, how many bars, and how many columns. */
const most = { rows: 6, bars: 40, columns: 62 }

/** The names of groupings that are steps of time. */
const steps = /^(day|week|month|quarter|year|month-of-year|weekday)\b/

/** Rows over the columns, the first few of them; or rows alone. It is pure. */
export function crosstabPicture(part: Part, t: Tokens): Picture {
  const table = tableOf(part, 'cells')
  const numbers = drawnOf(table)
  const columns = numbers.slice(0, -1).slice(0, most.columns)
  const total = numbers.at(-1)
  const rows = table.rows.length > 0 ? table.rows : table.totals
  const shown = rows.slice(0, columns.length > 0 ? most.rows : most.bars)
  const nameOf = (r: Row) => (table.rows.length > 0 ? rowName(table, r) : 'all')
  const records = recordsOf(table)
  const note =
    rows.length > shown.length
      ? `The first ${shown.length} of ${count(rows.length)} rows; the table has all.`
      : undefined
  if (columns.length === 0) {
    const one = {
      name: total?.shared ?? '',
      cells: shown.map((r) => cellOf(table, r, total?.code ?? '')),
    }
    return { ...beside(shown.map(nameOf), [one], unitOf(total), false, t), rows: records, note }
  }
  const drawn = shown.map((r) => ({ name: nameOf(r), cells: columns.map((c) => cellOf(table, r, c.code)) }))
  const names = columns.map((c) => c.heading)
  return {
    ...beside(names, drawn, unitOf(total), steps.test(columns[0]?.shared ?? ''), t),
    rows: records,
    note,
  }
}

/** From what one date places in the period, over what leaves and comes, to what another does. It is pure. */
export function bridgePicture(table: Table, t: Tokens): Picture {
  const bars: Parameters<typeof bridge>[0][number][] = []
  let level = 0
  const rows = [...table.rows, ...table.totals]
  rows.forEach((row, i) => {
    const amount = cellOf(table, row, 'amount')
    const n = numberOf(table, row, 'amount') ?? 0
    const end = i === 0 || i === rows.length - 1
    if (!end && n === 0) return
    const from = end ? 0 : Math.min(level, level + n)
    level = end ? n : level + n
    const sign = i === 0 ? '' : end ? '= ' : n < 0 ? '− ' : '+ '
    bars.push({
      name: sign + (row.cells[0]?.text ?? ''),
      from,
      size: Math.abs(n),
      text: amount.text.replace(/^[-+]/, ''),
      colour: end ? (i === 0 ? t.teal : t.amber) : n < 0 ? t.muted : t.plum,
      to: ordersBehind(amount.behind),
    })
  })
  return { ...bridge(bars, 'amount', 'step', t), rows: recordsOf(table) }
}
