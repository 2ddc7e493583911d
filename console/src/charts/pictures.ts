import { cellOf, type Document, numberOf, ordersBehind, type Part, recordsOf, tableOf } from '@/api/document'
import type { Question } from '@/question'
import type { Tokens } from '@/theme'
import { boxesPicture, mostBoxes } from './boxes'
import { curvePicture } from './curve'
import { columnsOf, distributionOption, wordsOf } from './distribution'
import type { Picture } from './frame'
import { mostPromised, promisePicture } from './promise'
import { spreadOf } from './spread'
import { linesOf, trendPicture } from './trend'

/** The pictures of how long a leg took. */
export const pictureNames = {
  lengths: 'Lengths',
  groups: 'Groups side by side',
  trend: 'Over time',
  legs: 'Legs',
  running: 'With running orders',
  promise: 'Against the promise',
} as const
export type PictureName = keyof typeof pictureNames

/** The groups that are steps of time, with the place of their grouping among the two; none where nothing cuts time. */
function stepsOf(part: Part) {
  const [rows, columns, groups] = [
    spreadOf(part, 'rows'),
    spreadOf(part, 'columns'),
    spreadOf(part, 'groups'),
  ]
  if (rows.some((g) => g.step)) return { key: 0, steps: rows.filter((g) => g.step) }
  if (columns.some((g) => g.step)) return { key: 1, steps: columns.filter((g) => g.step) }
  return { key: 0, steps: rows.length > 0 ? [] : groups.filter((g) => g.step) }
}

/** The pictures that a part has, the one to begin with first. */
export function picturesOf(part: Part): PictureName[] {
  const names: PictureName[] = []
  if (tableOf(part, 'promise').totals.length > 0) names.push('promise')
  if (tableOf(part, 'curve').rows.length > 0) names.push('running')
  if (spreadOf(part, 'legs').length > 0) names.push('legs')
  if ((spreadOf(part, 'all')[0]?.n ?? 0) > 0) {
    if (stepsOf(part).steps.length > 0) names.push('trend')
    if (spreadOf(part, 'groups').length > 0) names.push('groups')
    names.push('lengths')
  }
  return names
}

/** What a picture has left out for want of room, in words. */
export function leftOut(name: PictureName, part: Part): string {
  const groups = spreadOf(part, 'groups').filter((g) => (name === 'promise' ? g.asked > 0 : g.n > 0)).length
  const most = name === 'groups' ? mostBoxes : name === 'promise' ? mostPromised : Infinity
  return groups > most ? `The first ${most} of ${groups} groups are drawn; the table has all.` : ''
}

/** What the CSV file of a picture holds: the table that it is drawn from. */
export function recordsBehind(name: PictureName, part: Part) {
  const set = { groups: ['groups'], trend: ['groups'], legs: ['legs', 'all'] }[name as string]
  if (set) {
    const table = tableOf(part, 'spread')
    return recordsOf({
      ...table,
      rows: table.rows.filter((row) => set.includes(cellOf(table, row, 'set').text)),
    })
  }
  return recordsOf(tableOf(part, { running: 'curve', promise: 'promise' }[name as string] ?? 'distribution'))
}

/** pictureOf draws one picture of a part of an answer. It is pure. */
export function pictureOf(
  name: PictureName,
  { heading = '' }: Document,
  part: Part,
  question: Question,
  unit: string,
  t: Tokens,
): Picture {
  const [from, to] = [question.from ?? 'ordered', question.to ?? 'shipped']
  switch (name) {
    case 'groups':
      return boxesPicture(
        spreadOf(part, 'groups').map((g) => ({ ...g, name: g.other ? `${g.name}, ${g.other}` : g.name })),
        heading,
        unit,
        t,
      )
    case 'legs':
      return boxesPicture(
        [...spreadOf(part, 'legs'), ...spreadOf(part, 'all')],
        heading.replace(`${from} → ${to}, `, ''),
        unit,
        t,
      )
    case 'trend': {
      const { key, steps } = stepsOf(part)
      const by = question.by?.split(',') ?? []
      return trendPicture(
        steps,
        by.length === 2
          ? linesOf(
              spreadOf(part, 'groups'),
              steps.map((s) => s.name),
              key,
            )
          : [],
        { heading, unit, basis: `${by[key]} of ${question.basis ?? from}` },
        t,
      )
    }
    case 'running': {
      const estimate = tableOf(part, 'estimate')
      const running = ordersBehind(cellOf(estimate, estimate.totals[0], 'running').behind)
      return curvePicture(part, { heading, unit, to }, running, t)
    }
    case 'promise':
      return promisePicture(part, t)
  }
  const table = tableOf(part, 'distribution')
  const bars = table.rows.map((row) => ({
    length: numberOf(table, row, 'length') ?? 0,
    longest: numberOf(table, row, 'longest') ?? 0,
    orders: numberOf(table, row, 'orders') ?? 0,
    behind: cellOf(table, row, 'orders').behind,
  }))
  const stretch = numberOf(table, table.rows[0], 'width') ?? 1
  const columns = columnsOf(bars, stretch)
  const all = spreadOf(part, 'all')[0]
  return {
    option: distributionOption(
      columns,
      { heading, unit, stretch, median: all?.median ?? null, p90: all?.p90 ?? null },
      t,
    ),
    points: columns.map((c) => ({
      words: wordsOf(c, unit),
      to: ordersBehind(within(bars.find((b) => b.behind)?.behind, c.shortest, c.longest)),
    })),
  }
}

/** The address of the orders of some lengths, from that of others. */
function within(address: string | undefined, shortest: number, longest?: number): string | undefined {
  const [analysis, words] = address?.split('?') ?? []
  if (words === undefined) return undefined
  const query = new URLSearchParams(words)
  query.set('shortest', String(shortest))
  if (longest === undefined) query.delete('longest')
  else query.set('longest', String(longest))
  return `${analysis}?${query}`
}
