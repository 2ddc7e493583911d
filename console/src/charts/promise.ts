import type { BarSeriesOption } from 'echarts'
import type { Group } from '@/api/client'
import { count } from '@/format'
import type { Tokens } from '@/theme'
import { frame, legend, nameAxis, type Picture, type Point, tooltip, valueAxis } from './frame'

/** A group, how it is called and where its standings lead. */
export interface Promised {
  name: string
  group: Group
  to: (standing: string) => Point['to']
}

/** The number of groups that one picture holds. */
export const mostPromised = 30

/**
 * promisePicture draws for each group how its orders stand towards their promise, as shares of all asked about: what was
 * kept is calm, what is late is warm, and each standing has a pattern of its own. It is pure.
 */
export function promisePicture(all: readonly Promised[], t: Tokens): Picture {
  const shown = all.filter((p) => p.group.kept && p.group.asked > 0).slice(0, mostPromised)
  const standings = shown[0]?.group.kept?.standings ?? []
  const lines = (rotation: number, gap: number, colour: string) => ({
    symbol: 'rect',
    dashArrayX: [1, 0] as [number, number],
    dashArrayY: [2, gap] as [number, number],
    rotation,
    color: colour,
  })
  const looks: Record<string, BarSeriesOption['itemStyle']> = {
    early: { color: t.teal },
    'on-the-day': { color: t.teal, decal: lines(0, 4, `${t.surface}99`) },
    'reached-late': { color: t.amber },
    'not-due': { color: t.line },
    overdue: { color: t.amber, decal: lines(Math.PI / 4, 4, `${t.surface}bb`) },
    cancelled: { color: t.muted },
    'no-promise': {
      color: t.surface,
      borderColor: t.muted,
      borderWidth: 1,
      decal: lines(-Math.PI / 4, 6, t.line),
    },
  }
  const orders = (p: Promised, i: number) => p.group.kept?.standings[i]?.orders ?? 0
  const words = (p: Promised, i: number) =>
    `${p.name}, ${standings[i]?.label ?? ''}: ${count(orders(p, i))} of ${count(p.group.asked)} (${((100 * orders(p, i)) / p.group.asked).toFixed(1)}%)`
  const left = Math.min(
    260,
    32 + 7.2 * Math.max(6, ...shown.map((p) => `${p.name}  ${count(p.group.asked)}`.length)),
  )
  return {
    height: 96 + Math.max(2, shown.length) * 26,
    option: {
      ...frame(t),
      legend: { ...legend(t), left: 12 },
      grid: { left, right: 24, top: 36, bottom: 46 },
      xAxis: { ...valueAxis('% of the orders asked about', t, 28), max: 100 },
      yAxis: {
        ...nameAxis(
          shown.map((p) => `${p.name}  ${count(p.group.asked)}`),
          t,
        ),
        inverse: true,
        axisLabel: { color: t.ink, width: left - 20, overflow: 'truncate' },
      },
      tooltip: {
        ...tooltip(t),
        formatter: (hit) => {
          const at = [hit].flat()[0]
          const p = shown[at?.dataIndex ?? -1]
          return p && at ? words(p, at.seriesIndex ?? 0) : ''
        },
      },
      series: standings.map((s, i) => ({
        name: s.label,
        type: 'bar',
        stack: 'all',
        barWidth: 16,
        cursor: 'pointer',
        itemStyle: looks[s.code] ?? {},
        emphasis: { itemStyle: { borderColor: t.ink, borderWidth: 2 } },
        data: shown.map((p) => (100 * orders(p, i)) / p.group.asked),
      })),
    },
    rows: [
      ['group', 'asked', ...standings.map((s) => s.label)],
      ...shown.map((p) => [p.name, p.group.asked, ...standings.map((_, i) => orders(p, i))]),
    ],
    points: shown.flatMap((p, data) =>
      standings.map((s, series) => ({ words: words(p, series), to: p.to(s.code), series, data })),
    ),
  }
}
