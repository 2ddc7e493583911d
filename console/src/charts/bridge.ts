import type { RouteLocationRaw } from 'vue-router'
import type { Tokens } from '@/theme'
import { frame, nameAxis, type Picture, tooltip, valueAxis } from './frame'

/** A bar of a bridge: it hangs from one level, and is as long as its size. */
export interface BridgeBar {
  name: string
  from: number
  size: number
  text: string
  colour: string
  to?: RouteLocationRaw
}

/** bridge draws how one amount becomes another, step by step, each opening its orders. It is pure. */
export function bridge(bars: readonly BridgeBar[], unit: string, head: string, t: Tokens): Picture {
  const words = (i: number) => `${bars[i]?.name ?? ''}: ${bars[i]?.text ?? ''}`
  return {
    height: 44 + bars.length * 34,
    option: {
      ...frame(t),
      grid: { left: 16, right: 96, top: 8, bottom: 16, containLabel: true },
      xAxis: { ...valueAxis('', t), axisLabel: { show: false } },
      yAxis: {
        ...nameAxis(
          bars.map((b) => b.name),
          t,
        ),
        inverse: true,
        axisLabel: { color: t.ink, width: 300, overflow: 'truncate' },
      },
      tooltip: { ...tooltip(t), formatter: (hit) => words([hit].flat()[0]?.dataIndex ?? 0) },
      series: [
        {
          name: 'under it',
          type: 'bar',
          stack: 'all',
          silent: true,
          itemStyle: { color: 'transparent' },
          data: bars.map((b) => b.from),
        },
        {
          name: unit,
          type: 'bar',
          stack: 'all',
          barWidth: '58%',
          cursor: 'pointer',
          label: {
            show: true,
            position: 'right',
            color: t.ink,
            formatter: (p) => bars[p.dataIndex]?.text ?? '',
          },
          emphasis: { itemStyle: { borderColor: t.ink, borderWidth: 2 } },
          data: bars.map((b) => ({ value: b.size, itemStyle: { color: b.colour } })),
        },
      ],
    },
    rows: [[head, unit], ...bars.map((b) => [b.name, b.size])],
    points: bars.map((b, data) => ({ words: words(data), to: b.to, series: 1, data })),
  }
}
