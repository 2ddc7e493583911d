import type { SeriesOption } from 'echarts'
import type { Estimate } from '@/api/client'
import { decimal } from '@/format'
import type { Tokens } from '@/theme'
import { cell, frame, legend, type Picture, type Point, tooltip, valueAxis } from './frame'

/** What the words of the curve are about. */
export interface CurveWords {
  heading: string
  unit: string
  to: string // the milestone that ends the leg
}

/**
 * curvePicture draws the share that takes longer than each length, counting what is known of running orders, with its 95%
 * bounds; and the shares of all that have come, and that were cancelled, by each length. It is pure.
 */
export function curvePicture(e: Estimate, words: CurveWords, behind: Point['to'], t: Tokens): Picture {
  const percent = (x: number) => 100 * x
  const from0 = (of: (p: Estimate['points'][number]) => number | null, start: number) => [
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
  const said = (p: Estimate['points'][number]) =>
    `by ${decimal(p.length, Number.isInteger(p.length) ? 0 : 2)} ${words.unit}: ${decimal(percent(p.beyond), 1)}% ${open}` +
    (p.low === null || p.high === null
      ? ''
      : ` (95% bounds ${decimal(percent(p.low), 1)} to ${decimal(percent(p.high), 1)})`) +
    `; of all, ${decimal(percent(p.done), 1)}% ${words.to}, ${decimal(percent(p.cancelled), 1)}% cancelled`
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
            from0((p) => percent(p.beyond), 100),
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
          from0((p) => (p.high === null ? null : percent(p.high)), 100),
          t.amber,
          'dotted',
          1,
        ),
        step(
          '95% bounds',
          from0((p) => (p.low === null ? null : percent(p.low)), 100),
          t.amber,
          'dotted',
          1,
        ),
        step(
          `${words.to}, of all`,
          from0((p) => percent(p.done), 0),
          t.teal,
          'dashed',
        ),
        step(
          'cancelled, of all',
          from0((p) => percent(p.cancelled), 0),
          t.plum,
          'dotted',
        ),
      ],
    },
    rows: [
      [
        words.heading,
        'at risk',
        'ended',
        `${open} %`,
        'low %',
        'high %',
        `${words.to}, of all %`,
        'cancelled, of all %',
      ],
      ...e.points.map((p) => [
        p.length,
        p.at_risk,
        p.ended,
        percent(p.beyond),
        p.low === null ? '' : percent(p.low),
        p.high === null ? '' : percent(p.high),
        percent(p.done),
        cell(percent(p.cancelled)),
      ]),
    ],
    note: 'An order that still runs counts as longer than it has run so far. The shares of all count cancelling as another end.',
    points: e.points.map((p, i) => ({ words: said(p), to: behind, data: i + 1 })),
  }
}
