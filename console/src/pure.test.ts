import { expect, test } from 'vitest'
import { bowPoint, labelPlaces } from './charts/status'
import { comparisonsOf, conditionOf } from './condition'
import { faultOfDay } from './day'
import { rowName, type Part, type Table } from './api/document'
import { comparePicture } from './charts/crosstab'
import { monthName, shortMonth } from './format'
import { proposals } from './placeList'
import { groupingName, textOf } from './question'
import { type Shade, shareOfShade } from './shading'
import { dark, light, type Tokens } from './theme'

test('days that are none are said to be none', () => {
  expect(faultOfDay('2026-02-28')).toBeUndefined()
  expect(faultOfDay('2026-02-31')).toBe('There is no such day')
  expect(faultOfDay('15.03.2026')).toBe('Write the day as 2026-03-02')
  expect(faultOfDay('2024-02-29', '2024-02-29', '2024-03-01')).toBeUndefined()
  expect(faultOfDay('2024-03-02', '2024-02-29', '2024-03-01')).toBe(
    'Pick a day from 2024-02-29 to 2024-03-01',
  )
})

test('months have names', () => {
  expect(monthName('2026-07')).toBe('July 2026')
  expect(monthName('2026-Q3')).toBe('2026-Q3')
  expect(shortMonth('2026-07 (part)')).toBe('Jul 2026 (part)')
  expect(shortMonth('2026-07-06')).toBe('2026-07-06')
})

test('a picture by day names its days, and draws nothing where there is no data', () => {
  const column = (code: string, kind: string) => ({ code, heading: code, kind })
  const row = (day: string, n: number, why: string) => ({
    cells: [{ text: day }, { text: String(n), number: n }, { text: why }],
  })
  const table = {
    code: 'dates',
    columns: [column('name', 'day'), column('ordered', 'count'), column('why', 'text')],
    rows: [
      row('2026-10-30', 10, ''),
      row('2026-10-31', 0, 'weekend'),
      row('2026-11-01', 0, 'not in the book'),
    ],
    totals: [],
    all: 3,
  } as unknown as Table
  expect(table.rows.map((r) => rowName(table, r))).toEqual(['2026-10-30', '2026-10-31', '2026-11-01'])
  const { option, points } = comparePicture({ tables: [table] } as unknown as Part, light)
  expect(option.series).toMatchObject([{ data: [10, 0, null] }])
  expect(option.xAxis).toMatchObject({ data: ['2026-10-30', '2026-10-31', '2026-11-01'] })
  expect(points?.[2]?.words).toBe('2026-11-01, ordered, : not in the book')
})

test('a place is proposed by its name and country, whatever its accents', () => {
  const at = (place: string, country: string) =>
    proposals(place, country).map((p) => `${p.latitude} ${p.longitude} ${p.of}`)
  expect(at('Whakatāne', 'New Zealand')).toEqual(['-37.98 177 Bay of Plenty, New Zealand'])
  expect(at('hamilton', 'CA')).toEqual(['43.25 -79.83 Ontario, Canada'])
  expect(at('Hamilton', '').length).toBeGreaterThan(2)
  expect(at('Hamilton', 'Oman')).toEqual([])
})

test('labels of bows do not lie on each other', () => {
  const bows = [
    { from: 0, to: 2, height: 0.5 },
    { from: 0, to: 2, height: 0.52 },
    { from: 1, to: 1.2, height: 0.5 },
  ]
  const at = labelPlaces(bows).map((i, n) => bowPoint(bows[n]!, i))
  for (const [n, [x, y]] of at.entries())
    for (const [a, b] of at.slice(0, n)) expect(Math.abs(x - a) >= 0.45 || Math.abs(y - b) >= 0.09).toBe(true)
})

test('what is picked becomes a condition whose text stays text', () => {
  const subject = { name: 'site', kind: 'text' as const }
  const is = comparisonsOf('text')[0]!
  expect(conditionOf(subject, is, 'Gal"way')).toBe('site == "Gal\\"way"')
})

/** The contrast of two colours: WCAG 2.2, relative luminance. */
function contrast(one: string, other: string): number {
  const luminance = (hex: string) => {
    const [r, g, b] = [1, 3, 5].map((i) => {
      const c = parseInt(hex.slice(i, i + 2), 16) / 255
      return c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4
    })
    return 0.2126 * r! + 0.7152 * g! + 0.0722 * b!
  }
  const [high, low] = [luminance(one), luminance(other)].sort((a, b) => b - a)
  return (high! + 0.05) / (low! + 0.05)
}

test.each(Object.entries({ light, dark }))('texts can be read in the %s theme', (_name, t: Tokens) => {
  for (const text of [t.ink, t.muted, t.amber, t.teal, t.plum, t.bad])
    for (const ground of [t.background, t.surface]) expect(contrast(text, ground)).toBeGreaterThanOrEqual(4.5)
})

test('cells are shaded within the table, their row or their column', () => {
  const cell = (n?: number) => ({ text: String(n ?? ''), ...(n === undefined ? {} : { number: n }) })
  const row = (...cells: (number | undefined)[]) => ({ cells: [{ text: 'name' }, ...cells.map(cell)] })
  const columns = ['name', 'key:a', 'key:b', 'total'].map((code) => ({ code, heading: code, kind: 'count' }))
  const rows = [row(1, 3, 4), row(5, undefined, 5), row(2, 2, 4)]
  const table = { code: 'cells', columns, rows, totals: [], all: 3 } as unknown as Table
  const share = (shade: Shade, r: number, at: number) =>
    shareOfShade(shade, table, table.rows[r]!, table.columns[at]!, at)
  expect(share('all', 0, 1)).toBe(0)
  expect(share('all', 1, 1)).toBe(1)
  expect(share('all', 0, 2)).toBe(0.5)
  expect(share('row', 0, 2)).toBe(1)
  expect(share('column', 2, 1)).toBe(0.25)
  expect(share('row', 2, 1)).toBeUndefined() // all are alike
  expect(share('all', 1, 2)).toBeUndefined() // nothing
  expect(share('all', 0, 3)).toBeUndefined() // the sum is not compared
  expect(share('none', 0, 1)).toBeUndefined()
})

test('groupings read as people say them', () => {
  const milestones = [
    { name: 'shipped', date: 'ship date' },
    { name: 'delivered', date: 'delivery date' },
  ]
  expect(groupingName('month(shipped)', milestones)).toBe('month of ship date')
  expect(groupingName('weekday(line.delivered)', milestones)).toBe('weekday of line delivery date')
  expect(groupingName('shipments.carrier', milestones)).toBe('shipment carrier')
  expect(groupingName('first-order', milestones)).toBe('first order')
})

test('a parameter that stands in an address several times is a list', () => {
  expect(textOf(['shipped', 'promised'])).toBe('shipped,promised')
  expect(textOf(['', null, 'paid'])).toBe('paid')
  expect([textOf(''), textOf(null), textOf(undefined)]).toEqual([undefined, undefined, undefined])
})
