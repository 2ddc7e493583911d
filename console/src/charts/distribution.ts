import type { EChartsOption } from 'echarts'
import { count } from '@/format'
import type { Tokens } from '@/theme'
import { frame, nameAxis, nameStyle, tooltip, valueAxis } from './frame'

/** What the picture of a distribution shows besides its bars. */
export interface Marks {
  /** The width of a column, in units: 1 where every length is whole. */
  stretch: number
  median: number | null
  p90: number | null
  unit: string
  /** The leg, the unit and the rule, under the axis. */
  heading: string
}

/** A bar of a distribution: the orders of one length, or of a stretch of lengths. */
export interface Bar {
  length: number
  longest: number
  orders: number
}

/** The number of columns from which on the picture ends with one bar for all that are longer. */
const widest = 60

/** A bar of the picture: the orders of one length, or of all from one on. */
export interface Column {
  name: string
  orders: number
  shortest: number
  longest?: number
}

/**
 * columnsOf gives one column per length, or per stretch of lengths, every one there; those beyond the picture's end
 * share the last.
 */
export function columnsOf(bars: readonly Bar[], stretch: number): Column[] {
  const first = bars[0]?.length ?? 0
  const at = (length: number) => Math.round((length - first) / stretch)
  const rounded = (length: number) => Number(length.toFixed(6))
  const end = Math.min(at(bars.at(-1)?.length ?? 0), widest)
  const columns = Array.from({ length: end + 1 }, (_, i): Column => {
    const shortest = rounded(first + i * stretch)
    return { name: String(shortest), orders: 0, shortest, longest: shortest }
  })
  const after = rounded(first + (end + 1) * stretch)
  const whole = bars.every((b) => b.length === b.longest)
  const beyond: Column = {
    name: whole ? `over ${after - 1}` : `${after} or more`,
    orders: 0,
    shortest: after,
  }
  for (const bar of bars) {
    const column = columns[at(bar.length)] ?? beyond
    column.orders += bar.orders
    if (column === beyond || whole) continue
    column.longest = bar.longest
    column.name = `${column.shortest} to under ${rounded(column.shortest + stretch)}`
  }
  return beyond.orders > 0 ? [...columns, beyond] : columns
}

/** wordsOf says what a column shows: "5 working days: 340 orders". */
export function wordsOf(column: Column, unit: string): string {
  return `${column.name} ${unit}: ${count(column.orders)} ${column.orders === 1 ? 'order' : 'orders'}`
}

/**
 * distributionOption draws one bar per length with the median and the 90th percentile marked. It is pure: no
 * page, no clock.
 */
export function distributionOption(columns: readonly Column[], marks: Marks, t: Tokens): EChartsOption {
  const first = columns[0]?.shortest ?? 0
  const end = columns.findLast((c) => c.longest !== undefined)?.shortest ?? 0
  const gathered = columns.some((c) => c.longest !== undefined && c.longest > c.shortest)
  // The two names stand at two heights, so that they keep apart however near the lines are.
  const mark = (name: string, at: number | null, distance: number) =>
    at === null || at > end
      ? []
      : [
          {
            name: `${name} ${Number(at.toFixed(1))}`,
            xAxis: Math.floor((at - first) / marks.stretch + (gathered ? 0 : 0.5)),
            label: { distance },
          },
        ]
  return {
    ...frame(t),
    grid: { left: 72, right: 24, top: 44, bottom: 52 },
    xAxis: {
      ...nameAxis(
        columns.map((c) => (c.longest === c.shortest ? c.name : c.name.replace(/ to under .*/, ''))),
        t,
      ),
      name: marks.heading,
      nameLocation: 'middle',
      nameGap: 32,
      nameTextStyle: nameStyle(t),
    },
    yAxis: valueAxis('orders', t),
    tooltip: {
      ...tooltip(t),
      trigger: 'axis',
      formatter: (hit) => {
        const column = columns[[hit].flat()[0]?.dataIndex ?? -1]
        return column ? wordsOf(column, marks.unit) : ''
      },
    },
    series: [
      {
        name: 'orders',
        type: 'bar',
        data: columns.map((c) => c.orders),
        cursor: 'pointer',
        emphasis: { itemStyle: { color: t.ink } },
        barCategoryGap: '18%',
        itemStyle: { color: t.teal },
        markLine: {
          symbol: 'none',
          silent: true,
          lineStyle: { color: t.amber, width: 2, type: 'dashed' },
          label: { formatter: '{b}', align: 'left', color: t.amber, fontWeight: 600 },
          data: [...mark('median', marks.median, 20), ...mark('p90', marks.p90, 4)],
        },
      },
    ],
  }
}
