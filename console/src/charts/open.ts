import type { BarSeriesOption, SeriesOption } from 'echarts'
import type { Ages, OpenPart, OpenRow } from '@/api/client'
import { count, counted, keyName } from '@/format'
import type { Tokens } from '@/theme'
import { bridge } from './bridge'
import { frame, legend, nameAxis, type Picture, type Point, tooltip, valueAxis } from './frame'

/** How a row of what was open reads. */
const rowName = (r: OpenRow) => r.name || `${r.from} to ${r.to}`

/** Ways in which up to six parts are told apart, by more than their colour. */
function ways(t: Tokens): BarSeriesOption['itemStyle'][] {
  const lines = (rotation: number, gap: number) => ({
    symbol: 'rect',
    dashArrayX: [1, 0] as [number, number],
    dashArrayY: [2, gap] as [number, number],
    rotation,
    color: `${t.surface}99`,
  })
  return [
    { color: t.teal },
    { color: t.teal, decal: lines(0, 4) },
    { color: t.plum },
    { color: t.plum, decal: lines(Math.PI / 4, 4) },
    { color: t.muted },
    { color: t.line },
  ]
}

/** From what was open at the start, over what was opened and closed, to what was open at the end. It is pure. */
export function bridgePicture(row: OpenRow, behind: (what: string) => Point['to'], t: Tokens): Picture {
  const start = row.at_start.orders
  const peak = start + row.opened.orders
  const bars = [
    { name: 'open at its start', from: 0, size: start, what: 'at-start', colour: t.teal },
    { name: '+ opened', from: start, size: row.opened.orders, what: 'opened-in', colour: t.plum },
    {
      name: '− closed',
      from: peak - row.closed.orders,
      size: row.closed.orders,
      what: 'closed-in',
      colour: t.muted,
    },
    { name: '= open at its end', from: 0, size: row.at_end.orders, what: 'at-end', colour: t.amber },
  ]
  return bridge(
    bars.map((b) => ({ ...b, text: counted(b.size, 'order'), to: behind(b.what) })),
    'orders',
    row.from,
    t,
  )
}

/** The number of groups that can be told apart in one picture. */
const mostParts = 5

/**
 * stockPicture draws what was open at the end of each step, by group where there are few, over what was opened and closed
 * in it. Steps at the book's beginning show too few, and are shaded. It is pure.
 */
export function stockPicture(
  part: OpenPart,
  ends: { first_day: string; data_date: string },
  behind: (row: OpenRow, what: string) => Point['to'],
  t: Tokens,
): Picture {
  const { rows } = part
  const groups = part.groups.slice(0, mostParts)
  const others = part.groups.length > mostParts
  const rest = rows.map(
    (r, i) => r.at_end.orders - groups.reduce((sum, g) => sum + (g.rows[i]?.at_end.orders ?? 0), 0),
  )
  const looks = ways(t)
  const area = (name: string, data: readonly number[], i: number): SeriesOption => ({
    name,
    type: 'bar',
    stack: 'open',
    barCategoryGap: rows.length > 60 ? '0%' : '12%',
    cursor: 'pointer',
    itemStyle: looks[i] ?? {},
    emphasis: { itemStyle: { borderColor: t.ink, borderWidth: 1 } },
    data: [...data],
  })
  const stock =
    groups.length > 0
      ? [
          ...groups.map((g, i) =>
            area(
              g.keys.map(keyName).join(', '),
              g.rows.map((r) => r.at_end.orders),
              i,
            ),
          ),
          ...(others ? [area('all others', rest, mostParts)] : []),
        ]
      : [
          area(
            'open at the end',
            rows.map((r) => r.at_end.orders),
            0,
          ),
        ]
  const begins = rows[0] !== undefined && rows[0].from <= ends.first_day
  const said = (r: OpenRow) =>
    `${rowName(r)}: ${count(r.at_end.orders)} open at the end, ${count(r.opened.orders)} opened, ${count(r.closed.orders)} closed`
  const grids = { left: 64, right: 24 }
  const marks = [
    ...(begins ? [{ name: 'book begins', xAxis: 0 }] : []),
    ...(rows.at(-1)?.to === ends.data_date ? [{ name: 'data date', xAxis: rows.length - 1 }] : []),
  ]
  return {
    height: 380,
    option: {
      ...frame(t),
      legend: { ...legend(t), data: [...stock.map((s) => String(s.name)), 'opened', 'closed'] },
      grid: [
        { ...grids, top: 36, height: 180 },
        { ...grids, top: 244, height: 92 },
      ],
      xAxis: [
        { ...nameAxis(rows.map(rowName), t), axisLabel: { show: false } },
        { ...nameAxis(rows.map(rowName), t), gridIndex: 1, axisLabel: { color: t.muted } },
      ],
      yAxis: [
        valueAxis('open at the end', t),
        { ...valueAxis('− closed, + opened', t), gridIndex: 1, splitNumber: 2 },
      ],
      tooltip: {
        ...tooltip(t),
        trigger: 'axis',
        formatter: (hit) => {
          const i = [hit].flat()[0]?.dataIndex ?? -1
          const row = rows[i]
          if (!row) return ''
          return (
            said(row) +
            groups
              .map((g) => `\n${g.keys.map(keyName).join(', ')}: ${count(g.rows[i]?.at_end.orders ?? 0)}`)
              .join('')
          )
        },
      },
      series: [
        ...stock,
        {
          name: 'opened',
          type: 'bar',
          xAxisIndex: 1,
          yAxisIndex: 1,
          stack: 'flow',
          barCategoryGap: rows.length > 60 ? '0%' : '12%',
          itemStyle: { color: t.amber },
          data: rows.map((r) => r.opened.orders),
        },
        {
          name: 'closed',
          type: 'bar',
          xAxisIndex: 1,
          yAxisIndex: 1,
          stack: 'flow',
          itemStyle: {
            color: t.muted,
            decal: {
              symbol: 'rect',
              dashArrayX: [1, 0],
              dashArrayY: [2, 4],
              rotation: 0,
              color: `${t.surface}99`,
            },
          },
          data: rows.map((r) => -r.closed.orders),
        },
        {
          name: 'ends',
          type: 'line',
          data: [],
          markLine: {
            symbol: 'none',
            silent: true,
            lineStyle: { color: t.plum, type: 'dashed' },
            label: { color: t.plum, formatter: '{b}', position: 'insideEndTop' },
            data: marks,
          },
        },
      ],
    },
    rows: [
      [
        'step',
        'from',
        'to',
        'at start',
        'opened',
        'closed',
        'open at end',
        ...groups.map((g) => g.keys.map(keyName).join(', ')),
      ],
      ...rows.map((r, i) => [
        r.name,
        r.from,
        r.to,
        r.at_start.orders,
        r.opened.orders,
        r.closed.orders,
        r.at_end.orders,
        ...groups.map((g) => g.rows[i]?.at_end.orders ?? 0),
      ]),
    ],
    note: begins ? 'The book begins here: what was open before it is not in it.' : undefined,
    points: rows.map((r) => ({ words: said(r), to: behind(r, 'at-end') })),
  }
}

/**
 * agesPicture draws how many were open of each bucket of ages: by group or, where each step was asked for, over time. What
 * is old is warm. It is pure.
 */
export function agesPicture(
  a: Ages,
  behind: (bucket: number, keys: readonly string[], day?: string) => Point['to'],
  t: Tokens,
): Picture {
  const overTime = a.mix.length > 0
  const bars = overTime
    ? a.mix.map((m) => ({ name: m.to, buckets: m.buckets, keys: [] as readonly string[], day: m.to }))
    : [
        ...a.groups.map((g) => ({
          name: g.keys.map(keyName).join(', '),
          buckets: g.buckets,
          keys: g.keys,
          day: undefined,
        })),
        { name: 'all', buckets: a.total.buckets, keys: [] as readonly string[], day: undefined },
      ]
  const last = Math.max(1, a.buckets.length - 1)
  const colour = (i: number) => {
    const place = i / last
    const [from, to, part] = place < 0.5 ? [t.teal, t.line, place * 2] : [t.line, t.amber, place * 2 - 1]
    return mixed(from, to, part)
  }
  const words = (bar: (typeof bars)[number] | undefined, i: number) =>
    `${bar?.name ?? ''}, ${a.buckets[i]?.label ?? ''}: ${counted(bar?.buckets[i] ?? 0, 'order')}`
  const names = nameAxis(
    bars.map((b) => b.name),
    t,
  )
  return {
    height: overTime ? 320 : 96 + bars.length * 28,
    option: {
      ...frame(t),
      legend: legend(t),
      grid: { left: overTime ? 64 : 120, right: 24, top: 36, bottom: 46 },
      xAxis: overTime ? names : valueAxis('orders open', t, 28),
      yAxis: overTime
        ? valueAxis('orders open', t)
        : { ...names, inverse: true, axisLabel: { color: t.ink, width: 104, overflow: 'truncate' } },
      tooltip: {
        ...tooltip(t),
        formatter: (hit) => {
          const at = [hit].flat()[0]
          return at ? words(bars[at.dataIndex ?? 0], at.seriesIndex ?? 0) : ''
        },
      },
      series: a.buckets.map((b, i) => ({
        name: b.label,
        type: 'bar',
        stack: 'all',
        ...(overTime ? { barCategoryGap: bars.length > 60 ? '0%' : '12%' } : { barWidth: 18 }),
        cursor: 'pointer',
        itemStyle: { color: colour(i), borderColor: t.surface, borderWidth: bars.length > 60 ? 0 : 0.5 },
        emphasis: { itemStyle: { borderColor: t.ink, borderWidth: 2 } },
        data: bars.map((bar) => bar.buckets[i] ?? 0),
      })),
    },
    rows: [
      [overTime ? 'at the end of' : 'group', ...a.buckets.map((b) => b.label)],
      ...bars.map((bar) => [bar.name, ...bar.buckets]),
    ],
    points: bars.flatMap((bar, data) =>
      a.buckets.map((_, series) => ({
        words: words(bar, series),
        to: behind(series, bar.keys, bar.day),
        series,
        data,
      })),
    ),
  }
}

/** A colour between two, of which the second has a part. */
function mixed(from: string, to: string, part: number): string {
  const channel = (i: number) => {
    const [a, b] = [from, to].map((c) => parseInt(c.slice(i, i + 2), 16))
    return Math.round((a ?? 0) + ((b ?? 0) - (a ?? 0)) * part)
      .toString(16)
      .padStart(2, '0')
  }
  return `#${channel(1)}${channel(3)}${channel(5)}`
}
