import type { SeriesOption } from 'echarts'
import { counted, decimal } from '@/format'
import type { Tokens } from '@/theme'
import { frame, legend, nameAxis, nameStyle, type Picture, tooltip, valueAxis } from './frame'
import type { Spread } from './spread'

/** A line of its own: the median of one key of the other grouping. */
export interface TrendLine {
  name: string
  groups: readonly (Spread | undefined)[] // by step
}

/** The number of lines that one can tell apart. */
const mostLines = 5

const marksOf = (step: Spread) =>
  [
    step.cut ? 'part of a step' : '',
    step.begins ? 'book begins' : '',
    step.small ? 'few lengths' : '',
  ].filter(Boolean)

/**
 * trendPicture draws the median and the 90th percentile for each step of time, with the share that still runs below:
 * what is recent is not finished. Steps in which the book begins are shaded, and those that are cut are hollow. With lines
 * it draws their medians instead. It is pure.
 */
export function trendPicture(
  steps: readonly Spread[],
  lines: readonly TrendLine[],
  words: { heading: string; unit: string; basis: string },
  t: Tokens,
): Picture {
  const names = steps.map((s) => s.name)
  const running = steps.map((s) => (s.asked > 0 ? (100 * s.running) / s.asked : null))
  const begins = steps.filter((s) => s.begins)
  const said = (s: Spread, i: number) => {
    const marks = marksOf(s)
    const figures =
      s.n > 0
        ? `median ${decimal(s.median, 1)}, p90 ${decimal(s.p90, 1)} ${words.unit}, ${counted(s.n, 'length')}`
        : 'no length'
    const still = running[i] ? `, ${decimal(running[i] ?? 0, 1)}% still running` : ''
    return `${s.name}: ${figures}${still}${marks.length > 0 ? ` (${marks.join(', ')})` : ''}`
  }
  type Way = readonly [colour: string, symbol: string, dash: 'solid' | 'dashed' | 'dotted']
  const plain: Way = [t.teal, 'circle', 'solid']
  const ways: readonly Way[] = [
    plain,
    [t.amber, 'rect', 'dashed'],
    [t.plum, 'triangle', 'solid'],
    [t.ink, 'diamond', 'dotted'],
    [t.muted, 'roundRect', 'dashed'],
  ]
  const line = (
    name: string,
    groups: readonly (Spread | undefined)[],
    of: 'median' | 'p90',
    [colour, symbol, dash]: Way,
  ) =>
    ({
      name,
      type: 'line',
      symbol,
      cursor: 'pointer',
      lineStyle: { color: colour, width: 2, type: dash },
      itemStyle: { color: colour },
      emphasis: { itemStyle: { color: t.ink, borderColor: t.ink } },
      data: groups.map((g, i) => ({
        value: g?.[of] ?? null,
        symbolSize: g?.small ? 4 : 8,
        itemStyle: steps[i]?.cut
          ? { color: t.surface, borderColor: colour, borderWidth: 2 }
          : { color: colour },
      })),
    }) satisfies SeriesOption
  const drawn =
    lines.length > 0
      ? lines.map((l, i) => line(l.name, l.groups, 'median', ways[i] ?? plain))
      : [line('median', steps, 'median', plain), line('p90', steps, 'p90', ways[1] ?? plain)]
  const notes = [
    ...(lines.length > 0 ? ['Each line is a median.'] : []),
    ...([...steps, ...lines.flatMap((l) => l.groups)].some((g) => g?.small) ? ['Small: few lengths.'] : []),
    ...(steps.some((s) => s.cut) ? ['Hollow: part of a step.'] : []),
    ...(running.some((share) => share)
      ? ['What still runs is in no line yet: recent steps will grow longer.']
      : []),
  ]
  const grids = { left: 64, right: 24 }
  return {
    height: 380,
    option: {
      ...frame(t),
      legend: legend(t),
      grid: [
        { ...grids, top: 36, height: 210 },
        { ...grids, top: 278, height: 46 },
      ],
      xAxis: [
        { ...nameAxis(names, t), axisLabel: { show: false }, boundaryGap: true },
        {
          ...nameAxis(names, t),
          gridIndex: 1,
          name: `by ${words.basis}; ${words.heading}`,
          nameLocation: 'middle',
          nameGap: 30,
          nameTextStyle: nameStyle(t),
        },
      ],
      yAxis: [
        { ...valueAxis(words.unit, t, 40), min: 0 },
        { ...valueAxis('% running', t, 40), gridIndex: 1, min: 0, splitNumber: 1, minInterval: 1 },
        { type: 'value', show: false, min: 0, max: 1 },
      ],
      tooltip: {
        ...tooltip(t),
        trigger: 'axis',
        formatter: (hit) => {
          const i = [hit].flat()[0]?.dataIndex ?? -1
          const step = steps[i]
          if (!step) return ''
          const by = lines.map((l) => `\n${l.name}: median ${decimal(l.groups[i]?.median ?? null, 1)}`)
          return said(step, i) + by.join('')
        },
      },
      series: [
        ...drawn,
        {
          name: 'still running %',
          type: 'bar',
          xAxisIndex: 1,
          yAxisIndex: 1,
          barCategoryGap: '30%',
          cursor: 'pointer',
          itemStyle: {
            color: t.plum,
            decal: {
              symbol: 'rect',
              dashArrayX: [1, 0],
              dashArrayY: [2, 3],
              rotation: -Math.PI / 4,
              color: `${t.surface}88`,
            },
          },
          data: running,
        },
        ...(begins.length > 0
          ? [
              {
                name: 'book begins',
                type: 'bar',
                yAxisIndex: 2,
                barCategoryGap: '0%',
                silent: true,
                z: 0,
                itemStyle: { color: `${t.plum}26` },
                data: steps.map((s) => (s.begins ? 1 : null)),
              } satisfies SeriesOption,
            ]
          : []),
      ],
    },
    note: notes.join(' '),
    points: steps.map((s, i) => ({ words: said(s, i), to: s.to })),
  }
}

/** The lines of the other grouping's keys, those with the most lengths first; stepKey is the place of the steps among the keys. */
export function linesOf(groups: readonly Spread[], steps: readonly string[], stepKey: number): TrendLine[] {
  const by = new Map<string, { n: number; groups: (Spread | undefined)[] }>()
  for (const group of groups) {
    const [step, name] = stepKey === 0 ? [group.name, group.other] : [group.other, group.name]
    const line = by.get(name) ?? { n: 0, groups: steps.map(() => undefined) }
    line.n += group.n
    line.groups[steps.indexOf(step)] = group
    by.set(name, line)
  }
  return [...by]
    .sort(([, a], [, b]) => b.n - a.n)
    .slice(0, mostLines)
    .map(([name, { groups }]) => ({ name, groups }))
}
