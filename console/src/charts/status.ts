import type { LineSeriesOption } from 'echarts'
import type { StatusAnswer, StatusCell, StatusMoves } from '@/api/client'
import { count, counted, decimal, keyName } from '@/format'
import { statusColour, type Tokens } from '@/theme'
import { cell, frame, legend, nameAxis, type Picture, type Point, tooltip, valueAxis } from './frame'

type Named = Pick<StatusAnswer, 'statuses'>

/** The colour of a status by its name; of a silence, that of hairlines. */
function colourOf(a: Named, name: string, t: Tokens): string {
  const place = a.statuses.findIndex((s) => s.name === name)
  return place < 0 ? t.line : statusColour(a.statuses[place]?.colour, place, t)
}

/** How many groups are drawn; the table has all. */
const mostGroups = 24

/**
 * latestPicture draws how many orders stand in each status: a bar for each or, with groups, one for each group with its
 * statuses one after the other. It is pure.
 */
export function latestPicture(
  a: StatusAnswer,
  behind: (status: string, keys: readonly string[]) => Point['to'],
  t: Tokens,
): Picture {
  // What has come to its end would leave no room for what has not.
  const running = a.total.cells.filter((c) => c.running > 0)
  const cells =
    running.length > 0 ? a.total.cells.filter((c) => c.running > 0 || c.count === 0) : a.total.cells
  const ended = a.total.cells.filter((c) => !cells.includes(c))
  const statuses = cells.map((c) => c.status)
  const left = ended.map((c) => `${count(c.count)} ${c.status}`).join(' and ')
  const notes = [
    ended.length > 0 ? `Not drawn, since orders end there: ${left}.` : '',
    a.by.length > 0 && a.groups.length > mostGroups
      ? `The first ${mostGroups} of ${count(a.all_groups)} groups; the table has all.`
      : '',
  ]
  const note = notes.filter(Boolean).join(' ') || undefined
  const countOf = (g: { cells: readonly StatusCell[] } | undefined, status = '') =>
    g?.cells.find((c) => c.status === status)?.count ?? 0
  const share = (n: number, g: { orders: number }) => decimal((100 * n) / Math.max(1, g.orders), 1)
  if (a.by.length === 0) {
    const words = (c: StatusCell) =>
      `${c.status}: ${counted(c.count, 'order')}, ${share(c.count, a.total)}%` +
      (c.median === null ? '' : `, for ${decimal(c.median, 1)} in the middle (${a.heading})`)
    return {
      height: 70 + 30 * statuses.length,
      option: {
        ...frame(t),
        grid: { left: 130, right: 110, top: 12, bottom: 44 },
        xAxis: valueAxis('orders', t, 28),
        yAxis: {
          ...nameAxis(statuses, t),
          inverse: true,
          axisLabel: { color: t.ink, width: 116, overflow: 'truncate' },
        },
        tooltip: {
          ...tooltip(t),
          formatter: (hit) => {
            const c = cells[[hit].flat()[0]?.dataIndex ?? -1]
            return c ? words(c) : ''
          },
        },
        series: [
          {
            name: 'orders',
            type: 'bar',
            barWidth: 18,
            cursor: 'pointer',
            label: {
              show: true,
              position: 'right',
              color: t.ink,
              formatter: (p) => {
                const c = cells[p.dataIndex]
                return c ? `${count(c.count)} (${share(c.count, a.total)}%)` : ''
              },
            },
            emphasis: { itemStyle: { borderColor: t.ink, borderWidth: 2 } },
            data: cells.map((c) => ({
              value: c.count,
              itemStyle: { color: colourOf(a, c.status, t) },
            })),
          },
        ],
      },
      rows: [
        ['status', 'orders', 'median', 'p90'],
        ...a.total.cells.map((c) => [c.status, c.count, cell(c.median), cell(c.p90)]),
      ],
      points: cells.map((c) => ({ words: words(c), to: behind(c.status, []) })),
      note,
    }
  }
  const groups = a.groups.slice(0, mostGroups)
  const words = (g: (typeof groups)[number] | undefined, i: number) =>
    `${keyName(g?.keys[0] ?? '')}, ${statuses[i] ?? ''}: ${count(g?.cells[i]?.count ?? 0)} of ${counted(g?.orders ?? 0, 'order')}`
  return {
    height: 96 + 28 * groups.length,
    option: {
      ...frame(t),
      legend: legend(t),
      grid: { left: 130, right: 28, top: 40, bottom: 44 },
      xAxis: { ...valueAxis('orders', t, 28) },
      yAxis: {
        ...nameAxis(
          groups.map((g) => keyName(g.keys[0] ?? '')),
          t,
        ),
        inverse: true,
        axisLabel: { color: t.ink, width: 116, overflow: 'truncate' },
      },
      tooltip: {
        ...tooltip(t),
        formatter: (hit) => {
          const at = [hit].flat()[0]
          return at ? words(groups[at.dataIndex ?? 0], at.seriesIndex ?? 0) : ''
        },
      },
      series: statuses.map((name, i) => ({
        name,
        type: 'bar',
        stack: 'all',
        barWidth: 18,
        cursor: 'pointer',
        itemStyle: { color: colourOf(a, name, t), borderColor: t.surface, borderWidth: 0.5 },
        emphasis: { itemStyle: { borderColor: t.ink, borderWidth: 2 } },
        data: groups.map((g) => countOf(g, statuses[i])),
      })),
    },
    rows: [
      [a.by[0] ?? '', ...a.total.cells.map((c) => c.status), 'no status'],
      ...a.groups.map((g) => [keyName(g.keys[0] ?? ''), ...g.cells.map((c) => c.count), g.no_status]),
    ],
    points: groups.flatMap((g, data) =>
      statuses.map((name, series) => ({ words: words(g, series), to: behind(name, g.keys), series, data })),
    ),
    note:
      a.groups.length > mostGroups
        ? `The first ${mostGroups} of ${count(a.all_groups)} groups; the table has all.`
        : undefined,
  }
}

/**
 * timesPicture draws how long orders were in each status: the median and the 90th percentile or, by step of time, the mean of
 * the stays that began in it. It is pure.
 */
export function timesPicture(
  a: StatusAnswer,
  behind: (status: string, step?: { from: string; to: string }) => Point['to'],
  t: Tokens,
): Picture {
  const shown = a.total.cells.filter((c) => c.mean !== null)
  if (a.each) {
    const steps = a.groups.map((g) => g.keys[0] ?? '')
    const at = (name: string, i: number) => a.groups[i]?.cells.find((c) => c.status === name)
    const words = (name: string, i: number) => {
      const c = at(name, i)
      return `${name}, begun in ${steps[i] ?? ''}${a.groups[i]?.cut ? ' (part)' : ''}: mean ${decimal(c?.mean ?? null, 2)}, ${counted(c?.count ?? 0, 'stay')}${c?.running ? `, ${count(c.running)} still there` : ''}`
    }
    return {
      height: 360,
      option: {
        ...frame(t),
        legend: legend(t),
        grid: { left: 64, right: 24, top: 40, bottom: 40 },
        xAxis: nameAxis(steps, t),
        yAxis: valueAxis(`mean, ${a.heading}`, t),
        tooltip: {
          ...tooltip(t),
          formatter: (hit) => {
            const p = [hit].flat()[0]
            return p ? words(String(p.seriesName), p.dataIndex ?? 0) : ''
          },
        },
        series: shown.map((c, i) => ({
          name: c.status,
          type: 'line',
          symbol: (['circle', 'rect', 'triangle', 'diamond'] as const)[i % 4],
          symbolSize: 8,
          cursor: 'pointer',
          lineStyle: {
            color: colourOf(a, c.status, t),
            type: (['solid', 'dashed', 'dotted'] as const)[i % 3],
          },
          itemStyle: { color: colourOf(a, c.status, t) },
          data: steps.map((_, s) => at(c.status, s)?.mean ?? null),
        })),
      },
      rows: [
        [a.each, ...shown.flatMap((c) => [`${c.status} mean`, `${c.status} stays`])],
        ...steps.map((name, s) => [
          name,
          ...shown.flatMap((c) => [cell(at(c.status, s)?.mean), at(c.status, s)?.count ?? 0]),
        ]),
      ],
      points: shown.flatMap((c, series) =>
        steps.flatMap((_, data) => {
          const g = a.groups[data]
          return (at(c.status, data)?.count ?? 0) > 0 && g
            ? [
                {
                  words: words(c.status, data),
                  to: behind(c.status, { from: g.from ?? '', to: g.to ?? '' }),
                  series,
                  data,
                },
              ]
            : []
        }),
      ),
      note: 'Recent steps hold stays that still last, and count up to the data date: they will grow.',
    }
  }
  const words = (c: StatusCell) =>
    `${c.status}: half of ${counted(c.count - c.unmeasured, 'stay')} at most ${decimal(c.median, 1)}, nine in ten at most ${decimal(c.p90, 1)} (${a.heading})`
  const bar = (name: string, of: (c: StatusCell) => number | null, look: object) => ({
    name,
    type: 'bar' as const,
    barWidth: 12,
    cursor: 'pointer',
    label: {
      show: true,
      position: 'right' as const,
      color: t.ink,
      formatter: (p: { dataIndex: number }) => decimal(shown.map(of)[p.dataIndex] ?? null, 1),
    },
    itemStyle: look,
    emphasis: { itemStyle: { borderColor: t.ink, borderWidth: 2 } },
    data: shown.map(of),
  })
  return {
    height: 96 + 38 * shown.length,
    option: {
      ...frame(t),
      legend: legend(t),
      grid: { left: 130, right: 60, top: 36, bottom: 44 },
      xAxis: valueAxis(a.heading, t, 28),
      yAxis: {
        ...nameAxis(
          shown.map((c) => c.status),
          t,
        ),
        inverse: true,
        axisLabel: { color: t.ink, width: 116, overflow: 'truncate' },
      },
      tooltip: {
        ...tooltip(t),
        formatter: (hit) => {
          const c = shown[[hit].flat()[0]?.dataIndex ?? -1]
          return c ? words(c) : ''
        },
      },
      series: [
        bar('median', (c) => c.median, { color: t.teal }),
        bar('90th percentile', (c) => c.p90, {
          color: t.amber,
          decal: {
            symbol: 'rect',
            dashArrayX: [1, 0],
            dashArrayY: [2, 4],
            rotation: Math.PI / 4,
            color: `${t.surface}99`,
          },
        }),
      ],
    },
    rows: [
      ['status', 'stays', 'median', 'p90'],
      ...shown.map((c) => [c.status, c.count, cell(c.median), cell(c.p90)]),
    ],
    points: shown.map((c) => ({ words: words(c), to: behind(c.status) })),
  }
}

/** How finely an arc is drawn. */
const arcPoints = 24

/**
 * movesPicture lays the statuses out in their own order and draws each move as an arc: forward above, back below, wider where
 * more orders took it. It is pure.
 */
export function movesPicture(
  a: StatusMoves,
  behind: (from: string, to: string) => Point['to'],
  t: Tokens,
): Picture {
  const moves = a.moves.map((m) => ({ ...m, from: m.from ?? '' }))
  const used = a.statuses.filter(
    (s) => moves.some((m) => m.from === s.name || m.to === s.name) || a.ends.some((e) => e.status === s.name),
  )
  const place = (name: string) => used.findIndex((s) => s.name === name)
  const many = used.length > 12 // then numbers would lie on each other: they stand in the matrix, and below when one points
  const lowest = moves.some((m) => place(m.to) < place(m.from)) ? -1.1 : -0.3
  const most = Math.max(1, ...moves.map((m) => m.count))
  const far = Math.max(1, ...moves.map((m) => Math.abs(place(m.to) - place(m.from))))
  const words = (m: (typeof moves)[number]) =>
    `${m.from} → ${m.to}: ${counted(m.count, 'time')} by ${counted(m.orders, 'order')}, after ${decimal(m.median, 1)} in the middle (${a.heading})`
  const arcs = moves.map((m): LineSeriesOption => {
    const from = place(m.from)
    const to = place(m.to)
    const back = to < from
    const height = (0.25 + (0.75 * Math.abs(to - from)) / far) * (back ? -1 : 1)
    const colour = back ? t.amber : t.teal
    return {
      name: `${m.from} → ${m.to}`,
      type: 'line',
      symbol: 'none',
      smooth: false,
      triggerLineEvent: true,
      cursor: 'pointer',
      lineStyle: {
        color: colour,
        width: 1 + 9 * Math.sqrt(m.count / most),
        opacity: 0.75,
        type: back ? 'dashed' : 'solid',
      },
      emphasis: { lineStyle: { color: t.plum, opacity: 1 } },
      data: Array.from({ length: arcPoints + 1 }, (_, i) => {
        const angle = Math.PI * (1 - i / arcPoints)
        const x = (from + to) / 2 + (Math.cos(angle) * (to - from)) / 2
        const y = height * Math.sin(angle)
        if (i !== arcPoints / 2) return [x, y]
        return {
          value: [x, y],
          symbol: 'circle',
          symbolSize: 1,
          label: {
            show: !many,
            position: back ? ('bottom' as const) : ('top' as const),
            color: t.ink,
            formatter: count(m.count),
            backgroundColor: `${t.surface}cc`,
          },
        }
      }),
    }
  })
  const ends = used.map((s) => a.ends.find((e) => e.status === s.name))
  return {
    height: many ? 480 : 380,
    option: {
      ...frame(t),
      grid: { left: 60, right: 60, top: 24, bottom: many ? 150 : 44 },
      xAxis: {
        type: 'value',
        min: -0.3,
        max: used.length - 0.7,
        interval: 1,
        show: false,
      },
      yAxis: {
        type: 'value',
        min: lowest,
        max: 1.15,
        show: false,
      },
      tooltip: {
        ...tooltip(t),
        formatter: (hit) => {
          const at = [hit].flat()[0]
          const m = moves[at?.seriesIndex ?? -1]
          if (m) return words(m)
          const s = used[at?.dataIndex ?? -1]
          const e = ends[at?.dataIndex ?? -1]
          return s
            ? `${s.name}: ${count(e?.first ?? 0)} begin here, ${count(e?.last ?? 0)} stand here last`
            : ''
        },
      },
      series: [
        ...arcs,
        {
          name: 'statuses',
          type: 'line',
          lineStyle: { width: 0 },
          symbol: 'circle',
          symbolSize: 18,
          cursor: 'default',
          z: 5,
          data: used.map((s, i) => ({
            value: [i, 0],
            itemStyle: {
              color: statusColour(s.colour, a.statuses.indexOf(s), t),
              borderColor: t.surface,
              borderWidth: 2,
            },
            label: {
              show: !many,
              position: 'bottom' as const,
              distance: 8,
              color: t.ink,
              fontWeight: 600,
              backgroundColor: `${t.surface}dd`,
              padding: [1, 4] as [number, number],
              formatter: s.name,
            },
          })),
        },
        {
          name: 'names',
          type: 'line',
          lineStyle: { width: 0 },
          symbol: 'circle',
          symbolSize: 1,
          silent: true,
          data: many
            ? used.map((s, i) => ({
                value: [i, lowest],
                label: {
                  show: true,
                  position: 'bottom' as const,
                  rotate: 60,
                  align: 'right' as const,
                  verticalAlign: 'middle' as const,
                  color: t.ink,
                  formatter: s.name,
                },
              }))
            : [],
        },
      ],
    },
    rows: [
      ['from', 'to', 'times', 'orders', 'median before'],
      ...moves.map((m) => [m.from, m.to, m.count, m.orders, cell(m.median)]),
    ],
    points: moves.map((m, series) => ({
      words: words(m),
      to: behind(m.from, m.to),
      series,
      data: arcPoints / 2,
    })),
    note: 'Statuses in their order; forward moves above, moves back dashed below. The wider, the more often.',
  }
}
