import type { BarSeriesOption, SeriesOption } from 'echarts'
import type { RouteLocationRaw } from 'vue-router'
import type { Across, AcrossBridge, AcrossCell, AcrossFigure, AcrossHead, AcrossPart } from '@/api/client'
import { count, keyName } from '@/format'
import type { Tokens } from '@/theme'
import { bridge } from './bridge'
import { cell, frame, legend, nameAxis, type Picture, tooltip, valueAxis } from './frame'

/** How a row or a column reads. */
export function headName(h: AcrossHead): string {
  if (h.others) return `all others (${count(h.others)})`
  return keyName(h.key) + (h.cut ? ' (part)' : '')
}

/** What stands behind a month of the year, or a weekday. */
export function behindWords(h: AcrossHead): string {
  return [
    ...(h.days ? [`${count(h.days)} days`] : []),
    ...(h.whole ?? []).map(String),
    ...(h.in_part ?? []).map((year) => `${year} (part)`),
  ].join(', ')
}

/** A cell as it is read, with how many orders it is of. */
export function cellWords(c: AcrossCell): string {
  if (!c.text) return 'nothing'
  return c.of ? `${c.text} (${c.of})` : c.text
}

/** Looks that up to six dates or rows are told apart by, in more than their colour. */
function looks(t: Tokens) {
  const dashes = (gap: number, rotation: number) => ({
    symbol: 'rect' as const,
    dashArrayX: [1, 0] as [number, number],
    dashArrayY: [2, gap] as [number, number],
    rotation,
    color: `${t.surface}99`,
  })
  return [
    { colour: t.teal, line: 'solid' as const, mark: 'circle', decal: undefined },
    { colour: t.amber, line: 'dashed' as const, mark: 'triangle', decal: dashes(4, Math.PI / 4) },
    { colour: t.plum, line: 'dotted' as const, mark: 'rect', decal: dashes(3, 0) },
    { colour: t.muted, line: 'solid' as const, mark: 'diamond', decal: undefined },
    { colour: t.bad, line: 'dashed' as const, mark: 'emptyCircle', decal: dashes(5, -Math.PI / 4) },
    { colour: t.ink, line: 'dotted' as const, mark: 'emptyRect', decal: dashes(3, Math.PI / 2) },
  ]
}

/** The unit of a figure, for an axis. */
function unitOf(f: AcrossFigure, part: AcrossPart): string {
  if (f.show === 'value') return part.currency || 'no currency'
  if (f.show === 'share' || f.show === 'immediate') return 'percent'
  return f.adds_up ? f.show : (f.words.split(',')[0] ?? f.show)
}

/** How many things a picture draws beside each other. */
const most = 6

interface Drawn {
  name: string
  cells: readonly AcrossCell[]
  to: (i: number) => RouteLocationRaw
}

/** Things beside each other over one axis: as lines where there are many steps of time, else as bars. */
function beside(
  names: readonly string[],
  drawn: readonly Drawn[],
  unit: string,
  asLines: boolean,
  t: Tokens,
): Omit<Picture, 'rows'> {
  const styles = looks(t)
  const words = (series: number, i: number) =>
    `${names[i] ?? ''}, ${drawn[series]?.name ?? ''}: ${cellWords(drawn[series]?.cells[i] ?? { text: '', value: null })}`
  const series = drawn.map((d, s): SeriesOption => {
    const look = styles[s % styles.length]
    const data = d.cells.map((c) => c.value)
    if (asLines) {
      return {
        name: d.name,
        type: 'line',
        data,
        symbol: look?.mark,
        symbolSize: names.length > 60 ? 0 : 7,
        cursor: 'pointer',
        lineStyle: { type: look?.line, width: 2, color: look?.colour },
        itemStyle: { color: look?.colour },
      }
    }
    const bar: BarSeriesOption = {
      name: d.name,
      type: 'bar',
      data,
      cursor: 'pointer',
      itemStyle: { color: look?.colour, ...(look?.decal ? { decal: look.decal } : {}) },
      emphasis: { itemStyle: { borderColor: t.ink, borderWidth: 2 } },
    }
    return bar
  })
  return {
    height: 320,
    option: {
      ...frame(t),
      legend: legend(t),
      grid: { left: 72, right: 24, top: 44, bottom: 44 },
      xAxis: nameAxis(names, t),
      yAxis: valueAxis(unit, t, 56),
      tooltip: {
        ...tooltip(t),
        trigger: 'axis',
        formatter: (hit) => {
          const i = [hit].flat()[0]?.dataIndex ?? 0
          return drawn.map((_, s) => words(s, i)).join('\n')
        },
      },
      series,
    },
    points: names.flatMap((_, data) =>
      drawn.map((d, s) => ({ words: words(s, data), to: d.to(data), series: s, data })),
    ),
  }
}

/** One figure by each of its dates over the same steps, on one axis and scale. It is pure. */
export function comparePicture(
  a: Across,
  f: AcrossFigure,
  part: AcrossPart,
  behind: (row: AcrossHead, basis: string) => RouteLocationRaw,
  t: Tokens,
): Picture {
  const rows = part.tables[0]?.rows ?? []
  const drawn = part.tables.map((table) => ({
    name: table.words,
    cells: table.rows.map((r) => r.total),
    to: (i: number) => behind(rows[i] ?? { key: '' }, table.basis),
  }))
  const names = rows.map(headName)
  return {
    ...beside(names, drawn, unitOf(f, part), names.length > 12 || !f.adds_up, t),
    rows: [
      [a.each || a.rows || 'all', ...part.tables.map((table) => table.words), 'nothing, because'],
      ...rows.map((r, i) => [
        headName(r),
        ...part.tables.map((table) => cell(table.rows[i]?.total.value)),
        r.why ?? '',
      ]),
    ],
  }
}

/** Rows over the columns, the first few of them; or rows alone. It is pure. */
export function acrossPicture(
  a: Across,
  f: AcrossFigure,
  part: AcrossPart,
  behind: (row: AcrossHead | undefined, column: AcrossHead | undefined) => RouteLocationRaw,
  t: Tokens,
): Picture {
  const table = part.tables[0]
  const rows = table?.rows ?? []
  const unit = unitOf(f, part)
  if (!a.columns || !table) {
    const shown = rows.slice(0, 40)
    const one = {
      name: f.words,
      cells: shown.map((r) => r.total),
      to: (i: number) => behind(shown[i], undefined),
    }
    return {
      ...beside(shown.map(headName), [one], unit, false, t),
      rows: [[a.rows ?? '', f.words], ...shown.map((r) => [headName(r), cell(r.total.value)])],
      note:
        rows.length > shown.length
          ? `The first ${shown.length} of ${count(rows.length)}; the table has all.`
          : undefined,
    }
  }
  const columns = part.columns.slice(0, 62)
  const inTime = columns.some((c) => c.from || c.whole || c.in_part || c.days)
  const shown = rows.slice(0, most)
  const drawn = (a.rows ? shown : [table.total]).map((r) => ({
    name: a.rows ? headName(r) : 'all',
    cells: r.cells.slice(0, columns.length),
    to: (i: number) => behind(a.rows ? r : undefined, columns[i]),
  }))
  return {
    ...beside(columns.map(headName), drawn, unit, inTime, t),
    rows: [
      [a.rows ?? '', ...part.columns.map(headName), 'all'],
      ...[...rows, table.total].map((r) => [
        r === table.total ? 'all' : headName(r),
        ...r.cells.map((c) => cell(c.value)),
        cell(r.total.value),
      ]),
    ],
    note:
      rows.length > shown.length
        ? `The first ${shown.length} of ${count(rows.length)} rows; the table has all.`
        : undefined,
  }
}

/** From what one date places in the period, over what leaves and comes, to what another does. It is pure. */
export function bridgePicture(
  b: AcrossBridge,
  behind: (place: string, other: string) => RouteLocationRaw,
  t: Tokens,
): Picture {
  const steps = b.steps.filter((s) => s.sign !== 0 && s.amount.value !== 0)
  let level = b.total.value ?? 0
  const bars = [
    {
      name: `${b.from} in it`,
      from: 0,
      size: level,
      text: b.total.text,
      colour: t.teal,
      to: behind('inside', ''),
    },
    ...steps.map((s) => {
      const size = Math.abs(s.amount.value ?? 0)
      const sign = s.sign * Math.sign(s.amount.value ?? 0)
      const from = sign < 0 ? level - size : level
      level += sign * size
      return {
        name: `${sign < 0 ? '−' : '+'} ${s.label}`,
        from,
        size,
        text: s.amount.text,
        colour: sign < 0 ? t.muted : t.plum,
        to: behind(s.from, s.to),
      }
    }),
    {
      name: `= ${b.to} in it`,
      from: 0,
      size: b.other.value ?? 0,
      text: b.other.text,
      colour: t.amber,
      to: behind('', 'inside'),
    },
  ]
  return bridge(bars, 'amount', 'step', t)
}
