import type { EChartsOption } from 'echarts'
import type { Bar } from '@/api/client'
import type { Tokens } from '@/theme'

/** What the picture of a distribution shows besides its bars. */
export interface Marks {
  median: number | null
  p90: number | null
  unit: string
}

/** The lengths from which on the picture ends with one bar for all that are longer. */
const widest = 60

/**
 * distributionOption draws one bar per length, every length there, with the median and the 90th percentile
 * marked. Lengths beyond the picture's end share a last bar that says so. It is pure: no page, no clock.
 */
export function distributionOption(bars: readonly Bar[], marks: Marks, t: Tokens): EChartsOption {
  const first = bars[0]?.length ?? 0
  const end = Math.min(bars.at(-1)?.length ?? 0, first + widest)
  const orders = new Array<number>(end - first + 1).fill(0)
  let beyond = 0
  for (const bar of bars) {
    if (bar.length <= end) orders[bar.length - first] = bar.orders
    else beyond += bar.orders
  }
  const names = orders.map((_, i) => String(first + i))
  if (beyond > 0) {
    names.push(`over ${end}`)
    orders.push(beyond)
  }
  // The two names stand on the outer sides of their lines, so that they keep apart.
  const mark = (name: string, at: number | null, align: 'left' | 'right') =>
    at === null || at > end
      ? []
      : [{ name: `${name} ${Number(at.toFixed(1))}`, xAxis: Math.round(at - first), label: { align } }]
  return {
    animation: false,
    textStyle: { fontFamily: 'Inter Variable, sans-serif', color: t.ink },
    grid: { left: 56, right: 24, top: 36, bottom: 52 },
    xAxis: {
      type: 'category',
      data: names,
      name: marks.unit,
      nameLocation: 'middle',
      nameGap: 32,
      nameTextStyle: { color: t.muted },
      axisLine: { lineStyle: { color: t.muted } },
      axisTick: { show: false },
      axisLabel: { color: t.muted },
    },
    yAxis: {
      type: 'value',
      name: 'orders',
      nameLocation: 'end',
      nameTextStyle: { color: t.muted, align: 'right' },
      splitLine: { lineStyle: { color: t.line } },
      axisLabel: { color: t.muted },
    },
    tooltip: {
      trigger: 'axis',
      renderMode: 'richText',
      backgroundColor: t.surface,
      borderColor: t.line,
      textStyle: { color: t.ink },
    },
    series: [
      {
        name: 'orders',
        type: 'bar',
        data: orders,
        barCategoryGap: '18%',
        itemStyle: { color: t.teal },
        markLine: {
          symbol: 'none',
          silent: true,
          lineStyle: { color: t.amber, width: 2, type: 'dashed' },
          label: { formatter: '{b}', color: t.amber, fontWeight: 600 },
          data: [...mark('median', marks.median, 'right'), ...mark('p90', marks.p90, 'left')],
        },
      },
    ],
  }
}
