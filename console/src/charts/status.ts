import type { LineSeriesOption } from 'echarts'
import type { Status } from '@/api/client'
import {
  cellOf,
  numberOf,
  ordersBehind,
  type Part,
  recordsOf,
  type Row,
  rowName,
  type Table,
  tableOf,
} from '@/api/document'
import { count, counted } from '@/format'
import { statusColour, type Tokens } from '@/theme'
import { frame, legend, nameAxis, type Picture, tooltip, valueAxis } from './frame'

/** What pictures of statuses need besides their answer. */
export interface Drawn {
  /** The list of statuses, in their order. */
  statuses: readonly Status[]
  /** The columns of the lists that points open. */
  columns: string
  /** What lengths are of. */
  heading: string
  tokens: Tokens
}

/** The colour of a status by its name; of a silence, that of hairlines. */
function colourOf(name: string, { statuses, tokens }: Drawn): string {
  const place = statuses.findIndex((s) => s.name === name)
  return place < 0 ? tokens.line : statusColour(statuses[place]?.colour, place, tokens)
}

/** How many groups are drawn; the table has all. */
const mostGroups = 24

/** The name of a row, and one of its cells. */
const nameOf = (row: Row | undefined) => row?.cells[0]?.text ?? ''
const texts = (table: Table, row: Row | undefined) => (code: string) => cellOf(table, row, code).text

/**
 * latestPicture draws how many orders stand in each status: a bar for each or, with groups, one for each group with its
 * statuses one after the other. It is pure.
 */
export function latestPicture(part: Part, drawn: Drawn): Picture {
  const t = drawn.tokens
  const table = tableOf(part, 'statuses')
  const groups = tableOf(part, 'groups')
  const all = table.rows.slice(0, -1) // the last is without a status
  const [orders, running] = ['orders', 'running'].map(
    (code) => (row: Row) => numberOf(table, row, code) ?? 0,
  ) as [(row: Row) => number, (row: Row) => number]
  // What has come to its end would leave no room for what has not.
  const rows = all.some((r) => running(r) > 0) ? all.filter((r) => running(r) > 0 || orders(r) === 0) : all
  const ended = all.filter((r) => !rows.includes(r))
  const names = rows.map(nameOf)
  const note =
    ended.length > 0
      ? `Not drawn, since orders end there: ${ended.map((r) => `${count(orders(r))} ${nameOf(r)}`).join(' and ')}.`
      : ''
  const axis = (of: readonly string[]) => ({
    ...nameAxis(of, t),
    inverse: true,
    axisLabel: { color: t.ink, width: 116, overflow: 'truncate' as const },
  })
  if (groups.columns.length === 0) {
    const words = (row: Row) => {
      const text = texts(table, row)
      const middle = text('median') ? `, for ${text('median')} in the middle (${drawn.heading})` : ''
      return `${nameOf(row)}: ${counted(orders(row), 'order')}, ${text('share')}%${middle}`
    }
    return {
      height: 70 + 30 * rows.length,
      option: {
        ...frame(t),
        grid: { left: 130, right: 110, top: 12, bottom: 44 },
        xAxis: valueAxis('orders', t, 28),
        yAxis: axis(names),
        tooltip: {
          ...tooltip(t),
          formatter: (hit) => {
            const row = rows[[hit].flat()[0]?.dataIndex ?? -1]
            return row ? words(row) : ''
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
                const text = texts(table, rows[p.dataIndex])
                return `${text('orders')} (${text('share')}%)`
              },
            },
            emphasis: { itemStyle: { borderColor: t.ink, borderWidth: 2 } },
            data: rows.map((r) => ({ value: orders(r), itemStyle: { color: colourOf(nameOf(r), drawn) } })),
          },
        ],
      },
      rows: recordsOf(table),
      points: rows.map((r) => ({
        words: words(r),
        to: ordersBehind(cellOf(table, r, 'orders').behind, drawn.columns),
      })),
      note: note || undefined,
    }
  }
  const shown = groups.rows.slice(0, mostGroups)
  const words = (row: Row | undefined, status = '') =>
    `${row ? rowName(groups, row) : ''}, ${status}: ${texts(groups, row)(status)} of ${counted(numberOf(groups, row, 'all') ?? 0, 'order')}`
  const few =
    groups.all > shown.length
      ? `The first ${mostGroups} of ${count(groups.all)} groups; the table has all.`
      : ''
  return {
    height: 96 + 28 * shown.length,
    option: {
      ...frame(t),
      legend: legend(t),
      grid: { left: 130, right: 28, top: 40, bottom: 44 },
      xAxis: { ...valueAxis('orders', t, 28) },
      yAxis: axis(shown.map(nameOf)),
      tooltip: {
        ...tooltip(t),
        formatter: (hit) => {
          const at = [hit].flat()[0]
          return at ? words(shown[at.dataIndex ?? 0], names[at.seriesIndex ?? 0]) : ''
        },
      },
      series: names.map((name) => ({
        name,
        type: 'bar',
        stack: 'all',
        barWidth: 18,
        cursor: 'pointer',
        itemStyle: { color: colourOf(name, drawn), borderColor: t.surface, borderWidth: 0.5 },
        emphasis: { itemStyle: { borderColor: t.ink, borderWidth: 2 } },
        data: shown.map((row) => numberOf(groups, row, name) ?? 0),
      })),
    },
    rows: recordsOf(groups),
    points: shown.flatMap((row, data) =>
      names.map((name, series) => ({
        words: words(row, name),
        to: ordersBehind(cellOf(groups, row, name).behind, drawn.columns),
        series,
        data,
      })),
    ),
    note: [note, few].filter(Boolean).join(' ') || undefined,
  }
}

/**
 * timesPicture draws how long orders were in each status: the median and the 90th percentile or, by step of time, the mean of
 * the status periods that began in it. It is pure.
 */
export function timesPicture(part: Part, drawn: Drawn): Picture {
  const t = drawn.tokens
  const means = tableOf(part, 'means')
  if (means.columns.length > 0) return meansPicture(means, drawn)
  const table = tableOf(part, 'times')
  const all = table.totals.length > 0 ? table.totals : table.rows
  const shown = all.filter((row) => numberOf(table, row, 'mean') !== null)
  const name = (row: Row) => cellOf(table, row, 'status').text
  const words = (row: Row) => {
    const text = texts(table, row)
    return `${name(row)}: half of ${text('periods')} status periods at most ${text('median')}, nine in ten at most ${text('p90')} (${drawn.heading})`
  }
  const bar = (called: string, code: string, look: object) => ({
    name: called,
    type: 'bar' as const,
    barWidth: 12,
    cursor: 'pointer',
    label: {
      show: true,
      position: 'right' as const,
      color: t.ink,
      formatter: (p: { dataIndex: number }) => texts(table, shown[p.dataIndex])(code),
    },
    itemStyle: look,
    emphasis: { itemStyle: { borderColor: t.ink, borderWidth: 2 } },
    data: shown.map((row) => numberOf(table, row, code)),
  })
  return {
    height: 96 + 38 * shown.length,
    option: {
      ...frame(t),
      legend: legend(t),
      grid: { left: 130, right: 60, top: 36, bottom: 44 },
      xAxis: valueAxis(drawn.heading, t, 28),
      yAxis: {
        ...nameAxis(shown.map(name), t),
        inverse: true,
        axisLabel: { color: t.ink, width: 116, overflow: 'truncate' },
      },
      tooltip: {
        ...tooltip(t),
        formatter: (hit) => {
          const row = shown[[hit].flat()[0]?.dataIndex ?? -1]
          return row ? words(row) : ''
        },
      },
      series: [
        bar('median', 'median', { color: t.teal }),
        bar('90th percentile', 'p90', {
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
    rows: recordsOf(table),
    points: shown.map((row) => ({
      words: words(row),
      to: ordersBehind(cellOf(table, row, 'orders').behind, drawn.columns),
    })),
  }
}

/** The mean time in each status, by the step of time in which status periods began. */
function meansPicture(table: Table, drawn: Drawn): Picture {
  const t = drawn.tokens
  const names = table.columns.slice(1).flatMap((c) => (c.code === c.shared ? [c.code] : []))
  const words = (name: string, row: Row | undefined) => {
    const text = texts(table, row)
    const still = numberOf(table, row, `${name} running`) ? `, ${text(`${name} running`)} still in it` : ''
    return `${name}, begun in ${row ? rowName(table, row) : ''}: mean ${text(name)}, ${counted(numberOf(table, row, `${name} periods`) ?? 0, 'status period')}${still}`
  }
  return {
    height: 360,
    option: {
      ...frame(t),
      legend: legend(t),
      grid: { left: 64, right: 24, top: 40, bottom: 40 },
      xAxis: nameAxis(table.rows.map(nameOf), t),
      yAxis: valueAxis(`mean, ${drawn.heading}`, t),
      tooltip: {
        ...tooltip(t),
        formatter: (hit) => {
          const p = [hit].flat()[0]
          return p ? words(String(p.seriesName), table.rows[p.dataIndex ?? 0]) : ''
        },
      },
      series: names.map((name, i) => ({
        name,
        type: 'line',
        symbol: (['circle', 'rect', 'triangle', 'diamond'] as const)[i % 4],
        symbolSize: 8,
        cursor: 'pointer',
        lineStyle: {
          color: colourOf(name, drawn),
          type: (['solid', 'dashed', 'dotted'] as const)[i % 3],
        },
        itemStyle: { color: colourOf(name, drawn) },
        data: table.rows.map((row) => numberOf(table, row, name)),
      })),
    },
    rows: recordsOf(table),
    points: names.flatMap((name, series) =>
      table.rows.flatMap((row, data) => {
        const to = ordersBehind(cellOf(table, row, `${name} periods`).behind, drawn.columns)
        return to ? [{ words: words(name, row), to, series, data }] : []
      }),
    ),
    note: 'Recent steps hold status periods that still last, and count up to the data date: they will grow.',
  }
}

/** How finely an arc is drawn. */
const arcPoints = 24

/** A Bow leads from one place to another; its height is negative where it leads back. */
export interface Bow {
  from: number
  to: number
  height: number
}

/** A point of a bow, of arcPoints + 1. */
export function bowPoint({ from, to, height }: Bow, i: number): [number, number] {
  const angle = Math.PI * (1 - i / arcPoints)
  return [(from + to) / 2 + (Math.cos(angle) * (to - from)) / 2, height * Math.sin(angle)]
}

/** How near two labels cannot be: across in places, up and down in heights. */
const [nearAcross, nearUp] = [0.45, 0.09]

/** Which point of each bow has its label, so that no two lie on each other as far as there is room. */
export function labelPlaces(bows: readonly Bow[]): number[] {
  const taken: [number, number][] = []
  const middle = arcPoints / 2
  const tries = [0, 2, -2, 4, -4, 6, -6].map((step) => middle + step).filter((i) => i > 0 && i < arcPoints)
  return bows.map((bow) => {
    const free = tries.find((i) => {
      const [x, y] = bowPoint(bow, i)
      return taken.every(([a, b]) => Math.abs(x - a) >= nearAcross || Math.abs(y - b) >= nearUp)
    })
    const at = free ?? middle
    taken.push(bowPoint(bow, at))
    return at
  })
}

/**
 * transitionsPicture lays the statuses out in their own order and draws each transition as an arc: forward above, back below,
 * wider where more orders made it. It is pure.
 */
export function transitionsPicture(part: Part, drawn: Drawn): Picture {
  const t = drawn.tokens
  const table = tableOf(part, 'transitions')
  const stands = tableOf(part, 'ends')
  const moves = table.rows.map((row) => ({
    from: cellOf(table, row, 'from').text,
    to: cellOf(table, row, 'to').text,
    count: numberOf(table, row, 'transitions') ?? 0,
    orders: cellOf(table, row, 'orders'),
    median: cellOf(table, row, 'median').text,
  }))
  const used = drawn.statuses.filter(
    (s) =>
      moves.some((m) => m.from === s.name || m.to === s.name) ||
      stands.rows.some((r) => nameOf(r) === s.name),
  )
  const place = (name: string) => used.findIndex((s) => s.name === name)
  const many = used.length > 12 // then numbers would lie on each other: they stand in the matrix, and below when one points
  const most = Math.max(1, ...moves.map((m) => m.count))
  const far = Math.max(1, ...moves.map((m) => Math.abs(place(m.to) - place(m.from))))
  const bows = moves.map((m) => {
    const [from, to] = [place(m.from), place(m.to)]
    return { from, to, height: (0.25 + (0.75 * Math.abs(to - from)) / far) * (to < from ? -1 : 1) }
  })
  const labelled = labelPlaces(bows)
  const lowest = Math.min(-0.3, ...bows.map((b) => b.height - 0.12))
  const words = (m: (typeof moves)[number]) =>
    `${m.from} → ${m.to}: ${counted(m.count, 'time')} by ${counted(m.orders.number ?? 0, 'order')}, after ${m.median} in the middle (${drawn.heading})`
  const arcs = moves.map((m, n): LineSeriesOption => {
    const bow = bows[n] ?? { from: 0, to: 0, height: 0 }
    const back = bow.to < bow.from
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
        const at = bowPoint(bow, i)
        if (i !== labelled[n]) return at
        return {
          value: at,
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
  const ends = used.map((s) => stands.rows.find((r) => nameOf(r) === s.name))
  return {
    height: many ? 480 : Math.round(180 + (170 * (1.15 - lowest)) / 1.45),
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
            ? `${s.name}: ${texts(stands, e)('first')} begin here, ${texts(stands, e)('last')} stand here last`
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
              color: colourOf(s.name, drawn),
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
    rows: recordsOf(table),
    points: moves.map((m, series) => ({
      words: words(m),
      to: ordersBehind(m.orders.behind, drawn.columns),
      series,
      data: labelled[series],
    })),
    note: 'Statuses in their order; forward transitions above, those back dashed below. The wider, the more often.',
  }
}
