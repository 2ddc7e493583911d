import {
  cellOf,
  numberOf,
  ordersBehind,
  type Part,
  recordsOf,
  type Row,
  rowName,
  tableOf,
} from '@/api/document'
import type { Tokens } from '@/theme'
import { frame, legend, nameAxis, type Picture, tooltip, valueAxis } from './frame'

/** forecastPicture draws, for the end of each month, which share of the forecasts was kept, with its interval; half is expected. It is pure. */
export function forecastPicture(part: Part, columns: string, t: Tokens): Picture {
  const table = tableOf(part, 'months')
  const rows = table.rows
  const text = (row: Row, code: string) => cellOf(table, row, code).text
  const words = (row: Row | undefined) => {
    if (!row) return ''
    const share = text(row, 'share')
    const within = share ? `, ${share}% (95%: ${text(row, 'low')} to ${text(row, 'high')})` : ''
    return `End of ${rowName(table, row)}: ${text(row, 'kept')} of ${text(row, 'open')} open orders shipped by the forecast, ${text(row, 'late')} later${within}`
  }
  const line = (name: string, code: string, look: object, symbolSize = 0) => ({
    name,
    type: 'line' as const,
    cursor: 'pointer',
    symbol: 'circle',
    symbolSize,
    data: rows.map((row) => numberOf(table, row, code)),
    ...look,
  })
  const edge = {
    lineStyle: { color: t.teal, width: 1, type: 'dotted' as const },
    itemStyle: { color: t.teal },
  }
  return {
    height: 300,
    rows: recordsOf(table),
    option: {
      ...frame(t),
      legend: legend(t),
      grid: { left: 64, right: 24, top: 44, bottom: 44 },
      xAxis: nameAxis(
        rows.map((row) => rowName(table, row)),
        t,
      ),
      yAxis: { ...valueAxis('percent', t), min: 0, max: 100 },
      tooltip: {
        ...tooltip(t),
        trigger: 'axis',
        formatter: (hit) => words(rows[[hit].flat()[0]?.dataIndex ?? -1]),
      },
      series: [
        line(
          'shipped by the forecast',
          'share',
          { lineStyle: { color: t.teal, width: 2 }, itemStyle: { color: t.teal } },
          8,
        ),
        line('95% from', 'low', edge),
        line('95% to', 'high', edge),
        {
          name: 'half, as a median promises',
          type: 'line' as const,
          symbolSize: 0,
          lineStyle: { color: t.amber, width: 2, type: 'dashed' as const },
          itemStyle: { color: t.amber },
          data: rows.map(() => 50),
        },
      ],
    },
    points: rows.map((row, data) => ({
      words: words(row),
      to: ordersBehind(cellOf(table, row, 'kept').behind, columns),
      series: 0,
      data,
    })),
  }
}
