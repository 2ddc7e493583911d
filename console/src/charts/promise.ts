import type { BarSeriesOption } from 'echarts'
import { cellOf, numberOf, ordersBehind, type Part, type Row, rowName, tableOf } from '@/api/document'
import { count } from '@/format'
import type { Tokens } from '@/theme'
import { frame, legend, nameAxis, type Picture, tooltip, valueAxis } from './frame'

/** The number of groups that one picture holds. */
export const mostPromised = 30

/**
 * promisePicture draws for each group how its orders stand towards their promise, as shares of all asked about: what was
 * kept is calm, what is late is warm, and each standing has a pattern of its own. It is pure.
 */
export function promisePicture(part: Part, t: Tokens): Picture {
  const table = tableOf(part, 'promise')
  const asked = (row: Row) => numberOf(table, row, 'asked') ?? 0
  const shown = [...table.rows, ...table.totals].filter((row) => asked(row) > 0).slice(0, mostPromised)
  const first = table.columns.findIndex((c) => c.code === 'asked') + 1
  const standings = table.columns.slice(
    first,
    table.columns.findIndex((c) => c.code === 'late'),
  )
  const lines = (rotation: number, gap: number, colour: string) => ({
    symbol: 'rect',
    dashArrayX: [1, 0] as [number, number],
    dashArrayY: [2, gap] as [number, number],
    rotation,
    color: colour,
  })
  const looks: Record<string, BarSeriesOption['itemStyle']> = {
    early: { color: t.teal },
    'on-the-day': { color: t.teal, decal: lines(0, 4, `${t.surface}99`) },
    'reached-late': { color: t.amber },
    'not-due': { color: t.line },
    overdue: { color: t.amber, decal: lines(Math.PI / 4, 4, `${t.surface}bb`) },
    cancelled: { color: t.muted },
    'no-promise': {
      color: t.surface,
      borderColor: t.muted,
      borderWidth: 1,
      decal: lines(-Math.PI / 4, 6, t.line),
    },
  }
  const orders = (row: Row, i: number) => row.cells[first + i]?.number ?? 0
  const words = (row: Row, i: number) =>
    `${rowName(table, row)}, ${standings[i]?.heading ?? ''}: ${count(orders(row, i))} of ${count(asked(row))} (${((100 * orders(row, i)) / asked(row)).toFixed(1)}%)`
  const name = (row: Row) => `${rowName(table, row)}  ${count(asked(row))}`
  const left = Math.min(260, 32 + 7.2 * Math.max(6, ...shown.map((row) => name(row).length)))
  return {
    height: 96 + Math.max(2, shown.length) * 26,
    option: {
      ...frame(t),
      legend: { ...legend(t), left: 12 },
      grid: { left, right: 24, top: 36, bottom: 46 },
      xAxis: { ...valueAxis('% of the selected orders', t, 28), max: 100 },
      yAxis: {
        ...nameAxis(shown.map(name), t),
        inverse: true,
        axisLabel: { color: t.ink, width: left - 20, overflow: 'truncate' },
      },
      tooltip: {
        ...tooltip(t),
        formatter: (hit) => {
          const at = [hit].flat()[0]
          const p = shown[at?.dataIndex ?? -1]
          return p && at ? words(p, at.seriesIndex ?? 0) : ''
        },
      },
      series: standings.map((s, i) => ({
        name: s.heading,
        type: 'bar',
        stack: 'all',
        barWidth: 16,
        cursor: 'pointer',
        itemStyle: looks[s.code] ?? {},
        emphasis: { itemStyle: { borderColor: t.ink, borderWidth: 2 } },
        data: shown.map((row) => (100 * orders(row, i)) / asked(row)),
      })),
    },
    points: shown.flatMap((row, data) =>
      standings.map((s, series) => ({
        words: words(row, series),
        to: ordersBehind(cellOf(table, row, s.code).behind),
        series,
        data,
      })),
    ),
  }
}
