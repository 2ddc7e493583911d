import type { SeriesOption } from 'echarts'
import { cellOf, numberOf, ordersBehind, type Part, recordsOf, type Row, tableOf } from '@/api/document'
import { count, counted } from '@/format'
import type { Tokens } from '@/theme'
import { bridge } from './bridge'
import { frame, legend, nameAxis, type Picture, tooltip, valueAxis } from './frame'

/** From what was open at the start, over what was opened and closed, to what was open at the end. It is pure. */
export function bridgePicture(part: Part, t: Tokens): Picture {
  const table = tableOf(part, 'rows')
  const row = table.totals.at(-1)
  const of = (code: string) => cellOf(table, row, code)
  const [start, opened, closed, end] = ['at_start', 'opened', 'closed', 'at_end'].map(
    (code) => of(code).number ?? 0,
  ) as [number, number, number, number]
  const bars = [
    { name: 'open at its start', from: 0, size: start, code: 'at_start', colour: t.teal },
    { name: '+ opened', from: start, size: opened, code: 'opened', colour: t.plum },
    { name: '− closed', from: start + opened - closed, size: closed, code: 'closed', colour: t.muted },
    { name: '= open at its end', from: 0, size: end, code: 'at_end', colour: t.amber },
  ]
  return {
    ...bridge(
      bars.map((b) => ({
        ...b,
        text: counted(b.size, 'order'),
        to: ordersBehind(of(b.code).behind),
      })),
      'orders',
      row?.from ?? '',
      t,
    ),
    rows: recordsOf(table),
  }
}

/** The number of groups that can be told apart in one picture. */
const mostParts = 5

/** The steps of a part: what was open at the end of each, of all and of each group. */
function stepsOf(part: Part) {
  const crossed = tableOf(part, 'steps')
  const table = crossed.columns.length > 0 ? crossed : tableOf(part, 'rows')
  const grouped = table === crossed
  const groups = grouped ? table.columns.slice(1, -3).map((c) => ({ code: c.code, name: c.heading })) : []
  const end = grouped ? 'all' : 'at_end'
  const steps = table.rows.map((row: Row) => ({
    name: row.cells[0]?.text ?? '',
    from: row.from ?? '',
    to: row.to ?? '',
    end: numberOf(table, row, end) ?? 0,
    opened: numberOf(table, row, 'opened') ?? 0,
    closed: numberOf(table, row, 'closed') ?? 0,
    groups: groups.map((g) => numberOf(table, row, g.code) ?? 0),
    behind: cellOf(table, row, end).behind,
  }))
  return { table, groups, steps }
}
type Step = ReturnType<typeof stepsOf>['steps'][number]

/**
 * stockPicture draws what was open at the end of each step, by group where there are few, over what was opened and closed
 * in it. Steps at the book's beginning show too few, and are shaded. It is pure.
 */
export function stockPicture(part: Part, ends: { first_day: string; data_date: string }, t: Tokens): Picture {
  const { table, groups: all, steps: rows } = stepsOf(part)
  const groups = all.slice(0, mostParts)
  const others = all.length > mostParts
  const rest = rows.map((r) => r.end - groups.reduce((sum, _, i) => sum + (r.groups[i] ?? 0), 0))
  const colours = [t.teal, t.amber, t.plum, t.ink, t.bad, t.muted]
  const symbols = ['circle', 'rect', 'triangle', 'diamond', 'emptyCircle', 'emptyRect']
  const area = (name: string, data: readonly number[], i: number): SeriesOption => ({
    name,
    type: 'line',
    stack: 'open',
    symbol: symbols[i % symbols.length],
    symbolSize: rows.length > 60 ? 3 : 7,
    showAllSymbol: true,
    cursor: 'pointer',
    itemStyle: { color: colours[i] },
    lineStyle: { width: 2, color: colours[i] },
    areaStyle: { opacity: 0.3, color: colours[i] },
    emphasis: { itemStyle: { borderColor: t.ink, borderWidth: 2 } },
    data: [...data],
  })
  const stock =
    groups.length > 0
      ? [
          ...groups.map((g, i) =>
            area(
              g.name,
              rows.map((r) => r.groups[i] ?? 0),
              i,
            ),
          ),
          ...(others ? [area('all others', rest, mostParts)] : []),
        ]
      : [
          area(
            'open at the end',
            rows.map((r) => r.end),
            0,
          ),
        ]
  const begins = rows[0] !== undefined && rows[0].from <= ends.first_day
  const said = (r: Step) =>
    `${r.name}: ${count(r.end)} open at the end, ${count(r.opened)} opened, ${count(r.closed)} closed`
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
        {
          ...nameAxis(
            rows.map((r) => r.name),
            t,
          ),
          axisLabel: { show: false },
        },
        {
          ...nameAxis(
            rows.map((r) => r.name),
            t,
          ),
          gridIndex: 1,
          axisLabel: { color: t.muted },
        },
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
          return said(row) + groups.map((g, k) => `\n${g.name}: ${count(row.groups[k] ?? 0)}`).join('')
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
          data: rows.map((r) => r.opened),
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
          data: rows.map((r) => -r.closed),
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
    rows: recordsOf(table),
    note: begins ? 'The book begins here: what was open before it is not in it.' : undefined,
    points: rows.map((r) => ({ words: said(r), to: ordersBehind(r.behind) })),
  }
}

/**
 * agesPicture draws how many were open of each bucket of ages: by group or, where each step was asked for, over time. What
 * is old is warm. It is pure.
 */
export function agesPicture(part: Part, t: Tokens): Picture {
  const mix = tableOf(part, 'mix')
  const overTime = mix.rows.length > 0
  const table = overTime ? mix : tableOf(part, 'ages')
  const buckets = table.columns.filter((c) => c.code.startsWith('bucket_'))
  const names = table.columns.findIndex((c) => c.kind === 'count')
  const bars = [...table.rows, ...table.totals].map((row) => ({
    name: overTime
      ? (row.to ?? '')
      : row.cells
          .slice(0, names)
          .map((c) => c.text)
          .join(', '),
    buckets: buckets.map((c) => cellOf(table, row, c.code)),
  }))
  const last = Math.max(1, buckets.length - 1)
  const colour = (i: number) => {
    const place = i / last
    const [from, to, part] = place < 0.5 ? [t.teal, t.line, place * 2] : [t.line, t.amber, place * 2 - 1]
    return mixed(from, to, part)
  }
  const words = (bar: (typeof bars)[number] | undefined, i: number) =>
    `${bar?.name ?? ''}, ${buckets[i]?.heading ?? ''}: ${counted(bar?.buckets[i]?.number ?? 0, 'order')}`
  const axis = nameAxis(
    bars.map((b) => b.name),
    t,
  )
  return {
    height: overTime ? 320 : 96 + bars.length * 28,
    option: {
      ...frame(t),
      legend: legend(t),
      grid: { left: overTime ? 64 : 120, right: 24, top: 36, bottom: 46 },
      xAxis: overTime ? axis : valueAxis('orders open', t, 28),
      yAxis: overTime
        ? valueAxis('orders open', t)
        : { ...axis, inverse: true, axisLabel: { color: t.ink, width: 104, overflow: 'truncate' } },
      tooltip: {
        ...tooltip(t),
        formatter: (hit) => {
          const at = [hit].flat()[0]
          return at ? words(bars[at.dataIndex ?? 0], at.seriesIndex ?? 0) : ''
        },
      },
      series: buckets.map((b, i) => ({
        name: b.heading,
        type: 'bar',
        stack: 'all',
        ...(overTime ? { barCategoryGap: bars.length > 60 ? '0%' : '12%' } : { barWidth: 18 }),
        cursor: 'pointer',
        itemStyle: { color: colour(i), borderColor: t.surface, borderWidth: bars.length > 60 ? 0 : 0.5 },
        emphasis: { itemStyle: { borderColor: t.ink, borderWidth: 2 } },
        data: bars.map((bar) => bar.buckets[i]?.number ?? 0),
      })),
    },
    rows: recordsOf(table),
    points: bars.flatMap((bar, data) =>
      buckets.map((_, series) => ({
        words: words(bar, series),
        to: ordersBehind(bar.buckets[series]?.behind),
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
