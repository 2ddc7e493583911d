import type { SeriesOption } from 'echarts'
import type { Group } from '@/api/client'
import { counted, decimal, keyName } from '@/format'
import type { Tokens } from '@/theme'
import { cell, frame, legend, nameAxis, type Picture, type Point, tooltip, valueAxis } from './frame'

/** A step of time with what was counted in it. */
export interface TrendStep {
  name: string
  group: Group
  to: Point['to']
}

/** A line of its own: the median of one key of the other grouping. */
export interface TrendLine {
  name: string
  groups: readonly (Group | undefined)[] // by step
}

/** The number of lines that one can tell apart. */
const mostLines = 5

const marksOf = ({ group }: TrendStep) =>
  [
    group.step?.cut ? 'part of a step' : '',
    group.step?.begins ? 'book begins' : '',
    group.small ? 'few lengths' : '',
  ].filter(Boolean)

/**
 * trendPicture draws the median and the 90th percentile for each step of time, with the share that still runs below:
 * what is recent is not finished. Steps in which the book begins are shaded, and those that are cut are hollow. With lines
 * it draws their medians instead. It is pure.
 */
export function trendPicture(
  steps: readonly TrendStep[],
  lines: readonly TrendLine[],
  words: { heading: string; unit: string; basis: string },
  t: Tokens,
): Picture {
  const names = steps.map((s) => s.name)
  const running = steps.map((s) => (s.group.asked > 0 ? share(s.group) : null))
  const begins = steps.filter((s) => s.group.step?.begins)
  const said = (s: TrendStep, i: number) => {
    const { group } = s
    const marks = marksOf(s)
    const figures =
      group.n > 0
        ? `median ${decimal(group.median, 1)}, p90 ${decimal(group.p90, 1)} ${words.unit}, ${counted(group.n, 'length')}`
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
    groups: readonly (Group | undefined)[],
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
        itemStyle: steps[i]?.group.step?.cut
          ? { color: t.surface, borderColor: colour, borderWidth: 2 }
          : { color: colour },
      })),
    }) satisfies SeriesOption
  const all = steps.map((s) => s.group)
  const drawn =
    lines.length > 0
      ? lines.map((l, i) => line(l.name, l.groups, 'median', ways[i] ?? plain))
      : [line('median', all, 'median', plain), line('p90', all, 'p90', ways[1] ?? plain)]
  const notes = [
    ...(lines.length > 0 ? ['Each line is a median.'] : []),
    ...([...all, ...lines.flatMap((l) => l.groups)].some((g) => g?.small) ? ['Small: few lengths.'] : []),
    ...(steps.some((s) => s.group.step?.cut) ? ['Hollow: part of a step.'] : []),
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
          nameTextStyle: { color: t.muted },
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
                data: steps.map((s) => (s.group.step?.begins ? 1 : null)),
              } satisfies SeriesOption,
            ]
          : []),
      ],
    },
    rows: [
      [
        words.basis,
        'n',
        'median',
        'p90',
        'still running %',
        'marks',
        ...lines.map((l) => `median ${l.name}`),
      ],
      ...steps.map((s, i) => [
        s.name,
        s.group.n,
        cell(s.group.median),
        cell(s.group.p90),
        cell(running[i]),
        marksOf(s).join(', '),
        ...lines.map((l) => cell(l.groups[i]?.median)),
      ]),
    ],
    note: notes.join(' '),
    points: steps.map((s, i) => ({ words: said(s, i), to: s.to })),
  }
}

/** The percent of a group's orders that still run. */
function share(group: Group): number {
  const running = group.reconciliation.find((r) => r.state === 'running')?.orders ?? 0
  return (100 * running) / group.asked
}

/** The lines of the other grouping's keys, those with the most lengths first. */
export function linesOf(groups: readonly Group[], steps: readonly string[], stepKey: number): TrendLine[] {
  const by = new Map<string, { n: number; groups: (Group | undefined)[] }>()
  for (const group of groups) {
    const name = keyName(group.keys[1 - stepKey] ?? '')
    const line = by.get(name) ?? { n: 0, groups: steps.map(() => undefined) }
    line.n += group.n
    line.groups[steps.indexOf(group.keys[stepKey] ?? '')] = group
    by.set(name, line)
  }
  return [...by]
    .sort(([, a], [, b]) => b.n - a.n)
    .slice(0, mostLines)
    .map(([name, { groups }]) => ({ name, groups }))
}
