import type { SeriesOption } from 'echarts'
import { numberOf, type Part, type Row, tableOf } from '@/api/document'
import { decimal } from '@/format'
import type { Tokens } from '@/theme'
import { frame, legend, type Picture, type Point, tooltip, valueAxis } from './frame'

/** What the words of the curve are about. */
export interface CurveWords {
  heading: string
  unit: string
  to: string // the milestone that ends the leg
}

/** The estimate from one length on, in percent. */
interface CurvePoint {
  length: number
  beyond: number
  low: number | null
  high: number | null
  done: number
  cancelled: number
}

/** The length by which half have come, running orders counted; null where more than half still run. */
function halfOf(part: Part): number | null {
  const table = tableOf(part, 'estimate')
  return numberOf(table, table.totals[0], 'with_running')
}

/**
 * curvePicture draws the share that takes longer than each length, counting what is known of running orders, with its 95%
 * bounds; and the shares of all that have come, and that were cancelled, by each length. It is pure.
 */
export function curvePicture(part: Part, words: CurveWords, behind: Point['to'], t: Tokens): Picture {
  const table = tableOf(part, 'curve')
  const e = { points: table.rows.map(pointOf), median: halfOf(part) }
  const from0 = (of: (p: CurvePoint) => number | null, start: number) => [
    [Math.min(0, e.points[0]?.length ?? 0), start],
    ...e.points.map((p) => [p.length, of(p)]),
  ]
  const step = (
    name: string,
    data: (number | null)[][],
    colour: string,
    dash: 'solid' | 'dashed' | 'dotted',
    width = 2,
  ) =>
    ({
      name,
      type: 'line',
      step: 'end',
      symbol: 'none',
      lineStyle: { color: colour, width, type: dash },
      itemStyle: { color: colour },
      data,
    }) satisfies SeriesOption
  const open = `not ${words.to} yet`
  const said = (p: CurvePoint) =>
    `by ${decimal(p.length, Number.isInteger(p.length) ? 0 : 2)} ${words.unit}: ${decimal(p.beyond, 1)}% ${open}` +
    (p.low === null || p.high === null ? '' : ` (95% bounds ${decimal(p.low, 1)} to ${decimal(p.high, 1)})`) +
    `; of all, ${decimal(p.done, 1)}% ${words.to}, ${decimal(p.cancelled, 1)}% cancelled`
  return {
    height: 340,
    option: {
      ...frame(t),
      legend: legend(t),
      grid: { left: 64, right: 24, top: 36, bottom: 52 },
      xAxis: { ...valueAxis(words.heading, t, 32), splitLine: { show: false } },
      yAxis: { ...valueAxis('% of orders', t, 40), min: 0, max: 100 },
      tooltip: {
        ...tooltip(t),
        trigger: 'axis',
        formatter: (hit) => {
          const point = e.points[([hit].flat()[0]?.dataIndex ?? 0) - 1]
          return point ? said(point).replace(': ', ':\n').replace('; ', ';\n') : ''
        },
      },
      series: [
        {
          ...step(
            open,
            from0((p) => p.beyond, 100),
            t.amber,
            'solid',
            2.5,
          ),
          markLine: {
            symbol: 'none',
            silent: true,
            lineStyle: { color: t.muted, type: 'dotted' },
            label: {
              color: t.muted,
              position: 'insideEndTop',
              formatter: e.median === null ? 'half: not reached' : `half by ${decimal(e.median, 1)}`,
            },
            data: [{ yAxis: 50 }],
          },
        },
        step(
          '95% bounds',
          from0((p) => p.high, 100),
          t.amber,
          'dotted',
          1,
        ),
        step(
          '95% bounds',
          from0((p) => p.low, 100),
          t.amber,
          'dotted',
          1,
        ),
        step(
          `${words.to}, of all`,
          from0((p) => p.done, 0),
          t.teal,
          'dashed',
        ),
        step(
          'cancelled, of all',
          from0((p) => p.cancelled, 0),
          t.plum,
          'dotted',
        ),
      ],
    },
    note: 'An order that still runs counts as longer than it has run so far. The shares of all count cancelling as another end.',
    points: e.points.map((p, i) => ({ words: said(p), to: behind, data: i + 1 })),
  }
}

function pointOf(row: Row): CurvePoint {
  const [length, , , beyond, low, high, done, cancelled] = row.cells.map((c) => c.number ?? null)
  return {
    length: length ?? 0,
    beyond: beyond ?? 0,
    low: low ?? null,
    high: high ?? null,
    done: done ?? 0,
    cancelled: cancelled ?? 0,
  }
}
