import {
  cellOf,
  namesOf,
  numberOf,
  ordersBehind,
  type Part,
  type Row,
  rowName,
  tableOf,
} from '@/api/document'
import { count } from '@/format'
import type { Tokens } from '@/theme'
import { frame, legend, nameAxis, type Picture, tooltip, valueAxis } from './frame'

/** How many groups are drawn; the table has all. */
const mostGroups = 40

/** immediatePicture draws what was asked for at once, and what was achieved, each in percent, for each group. It is pure. */
export function immediatePicture(part: Part, achieved: string, columns: string, t: Tokens): Picture {
  const table = tableOf(part, 'groups')
  const rows = table.rows.length > 0 ? table.rows.slice(0, mostGroups) : table.totals
  const name = (row: Row) => (namesOf(table).length > 0 ? rowName(table, row) : 'all')
  const said = [
    { name: 'asked for: requested for the day of the order', some: 'immediate', of: 'asked' },
    { name: `achieved: ${achieved} on the day of the order`, some: 'achieved', of: 'achieved' },
  ] as const
  const words = (row: Row | undefined, s: (typeof said)[number] | undefined) => {
    if (!row || !s) return ''
    const text = (code: string) => cellOf(table, row, code).text
    const rate = text(`${s.of}_rate`)
    const within = numberOf(table, row, `${s.of}_low`)
    const [, what] = s.name.split(': ')
    return (
      `${name(row)}: ${text(s.some)} of ${text(`${s.of}_all`)} ${what}` +
      (rate ? `, ${rate}%` : '') +
      (within === null ? '' : ` (95%: ${text(`${s.of}_low`)} to ${text(`${s.of}_high`)})`)
    )
  }
  const bar = (s: (typeof said)[number], look: object) => ({
    name: s.name,
    type: 'bar' as const,
    cursor: 'pointer',
    itemStyle: look,
    emphasis: { itemStyle: { borderColor: t.ink, borderWidth: 2 } },
    label: {
      show: rows.length <= 12,
      position: 'top' as const,
      color: t.ink,
      formatter: (p: { dataIndex: number }) => {
        const rate = cellOf(table, rows[p.dataIndex], `${s.of}_rate`).text
        return rate ? `${rate}%` : ''
      },
    },
    data: rows.map((row) => numberOf(table, row, `${s.of}_rate`)),
  })
  return {
    height: 320,
    option: {
      ...frame(t),
      legend: legend(t),
      grid: { left: 64, right: 24, top: 44, bottom: 44 },
      xAxis: nameAxis(rows.map(name), t),
      yAxis: { ...valueAxis('percent', t), min: 0, max: 100 },
      tooltip: {
        ...tooltip(t),
        formatter: (hit) => {
          const at = [hit].flat()[0]
          return words(rows[at?.dataIndex ?? -1], said[at?.seriesIndex ?? -1])
        },
      },
      series: [
        bar(said[0], { color: t.teal }),
        bar(said[1], {
          color: t.amber,
          decal: {
            symbol: 'rect',
            dashArrayX: [1, 0],
            dashArrayY: [2, 4],
            rotation: Math.PI / 4,
            color: `${t.surface}99`,
          },
        }),
      ],
    },
    points: rows.flatMap((row, data) =>
      said.map((s, series) => ({
        words: words(row, s),
        to: ordersBehind(cellOf(table, row, s.some).behind, columns),
        series,
        data,
      })),
    ),
    note:
      table.all > mostGroups
        ? `The first ${mostGroups} of ${count(table.all)} groups; the table has all.`
        : undefined,
  }
}
