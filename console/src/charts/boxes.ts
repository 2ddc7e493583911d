import { counted, decimal, length } from '@/format'
import type { Tokens } from '@/theme'
import { frame, nameAxis, type Picture, tooltip, valueAxis } from './frame'
import type { Spread } from './spread'

/** The number of boxes that one picture holds. */
export const mostBoxes = 24

/**
 * boxesPicture draws a box for each: its middle half with the median, and a line from the 10th to the 90th percentile; a
 * diamond is the mean. The name says how many lengths there are. It is pure.
 */
export function boxesPicture(all: readonly Spread[], heading: string, unit: string, t: Tokens): Picture {
  const boxes = all.filter((b) => b.n > 0).slice(0, mostBoxes)
  const words = (b: Spread) =>
    `${b.name}, ${counted(b.n, 'length')}${b.small ? ' (few)' : ''}: half take ${length(b.p25)} to ${length(b.p75)} ${unit}, ` +
    `median ${decimal(b.median, 1)}, mean ${decimal(b.mean, 2)}, p10 ${decimal(b.p10, 1)}, p90 ${decimal(b.p90, 1)}`
  const name = (b: Spread) => `${b.name}  n ${b.n}${b.small ? ' †' : ''}`
  const left = Math.min(260, 32 + 7.2 * Math.max(0, ...boxes.map((b) => name(b).length)))
  return {
    height: 84 + Math.max(3, boxes.length) * 30,
    option: {
      ...frame(t),
      grid: { left, right: 24, top: 12, bottom: 52 },
      xAxis: valueAxis(heading, t, 32),
      yAxis: {
        ...nameAxis(boxes.map(name), t),
        inverse: true,
        axisLabel: { color: t.ink, width: left - 20, overflow: 'truncate' },
      },
      tooltip: {
        ...tooltip(t),
        formatter: (hit) => {
          const box = boxes[[hit].flat()[0]?.dataIndex ?? -1]
          return box ? words(box).replace(': ', ':\n').replaceAll(', ', ',\n') : ''
        },
      },
      series: [
        {
          name: 'lengths',
          type: 'boxplot',
          layout: 'vertical',
          boxWidth: [8, 18],
          cursor: 'pointer',
          itemStyle: { color: `${t.teal}33`, borderColor: t.teal, borderWidth: 1.5 },
          emphasis: { itemStyle: { borderColor: t.ink, borderWidth: 2 } },
          data: boxes.map((b) => [b.p10, b.p25, b.median, b.p75, b.p90].map(Number)),
        },
        {
          name: 'mean',
          type: 'line',
          symbol: 'diamond',
          symbolSize: 9,
          showSymbol: true,
          lineStyle: { width: 0 },
          itemStyle: { color: t.amber },
          data: boxes.map((b, i) => [b.mean ?? 0, i]),
        },
      ],
    },
    note: 'Box: the middle half and the median. Line: 10th to 90th percentile. Diamond: mean.',
    points: boxes.map((b) => ({ words: words(b), to: b.to })),
  }
}
