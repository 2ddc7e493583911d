import type { Group, Took, TookPart } from '@/api/client'
import { keyName } from '@/format'
import { legOf, ordersBehind, type Question } from '@/question'
import type { Tokens } from '@/theme'
import { type Box, boxesPicture, mostBoxes } from './boxes'
import { curvePicture } from './curve'
import { columnsOf, distributionOption, wordsOf } from './distribution'
import type { Picture } from './frame'
import { mostPromised, promisePicture } from './promise'
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

/** The grouping that cuts time: its place among the keys, or −1. */
function stepKey(part: TookPart): number {
  return part.groups.find((g) => g.step)?.step?.key ?? -1
}

/** The pictures that an answer has, the one to begin with first. */
export function picturesOf(answer: Took, part: TookPart): PictureName[] {
  const names: PictureName[] = []
  if (part.total.kept) names.push('promise')
  if (part.total.estimate && part.total.estimate.points.length > 0) names.push('running')
  if (part.legs.length > 0) names.push('legs')
  if (part.total.n > 0) {
    if (stepKey(part) >= 0) names.push('trend')
    if (answer.by.length > 0) names.push('groups')
    names.push('lengths')
  }
  return names
}

const nameOf = (g: Group) => g.keys.map(keyName).join(', ')

/** What a picture has left out for want of room, in words. */
export function leftOut(name: PictureName, part: TookPart): string {
  const groups = part.groups.filter((g) => (name === 'promise' ? g.asked > 0 : g.n > 0)).length
  const most = name === 'groups' ? mostBoxes : name === 'promise' ? mostPromised : Infinity
  return groups > most ? `The first ${most} of ${groups} groups are drawn; the table has all.` : ''
}

/** pictureOf draws one picture of a part of an answer. It is pure. */
export function pictureOf(
  name: PictureName,
  answer: Took,
  part: TookPart,
  question: Question,
  unit: string,
  t: Tokens,
): Picture {
  const { heading } = answer
  const box = (g: Group, called: string, of: Question): Box => ({
    ...g,
    name: called,
    to: ordersBehind(of, { state: 'counted', group: g.keys }),
  })
  switch (name) {
    case 'groups':
      return boxesPicture(
        part.groups.map((g) => box(g, nameOf(g), question)),
        heading,
        unit,
        t,
      )
    case 'legs':
      return boxesPicture(
        [
          ...part.legs.map((l) => box(l.total, `${l.from} → ${l.to}`, legOf(question, answer, l))),
          box(part.total, `${answer.from} → ${answer.to}`, question),
        ],
        heading.replace(`${answer.from} → ${answer.to}, `, ''),
        unit,
        t,
      )
    case 'trend': {
      const key = stepKey(part)
      const steps = (part.columns.length === 0 ? part.groups : key === 0 ? part.rows : part.columns).filter(
        (g) => g.step,
      )
      const names = steps.map((g) => g.keys.at(0) ?? '')
      const behind = (g: Group) =>
        answer.by.length === 1
          ? ordersBehind(question, { state: 'counted', group: g.keys })
          : ordersBehind({ ...question, by: answer.by[key] }, { state: 'counted', group: g.keys })
      return trendPicture(
        steps.map((g) => ({ name: g.keys[0] ?? '', group: g, to: behind(g) })),
        answer.by.length === 2 ? linesOf(part.groups, names, key) : [],
        { heading, unit, basis: `${answer.by[key]} of ${answer.basis}` },
        t,
      )
    }
    case 'running':
      return curvePicture(
        part.total.estimate ?? { points: [], running: 0, cancelled: 0, median: null, words: '' },
        { heading, unit, to: answer.to },
        ordersBehind(question, { state: 'running' }),
        t,
      )
    case 'promise':
      return promisePicture(
        [...part.groups, part.total].map((g) => ({
          name: g.keys.length > 0 ? nameOf(g) : 'all',
          group: g,
          to: (standing: string) => ordersBehind(question, { standing, group: g.keys }),
        })),
        t,
      )
  }
  const columns = columnsOf(part.distribution, part.stretch)
  const { median, p90 } = part.total
  return {
    option: distributionOption(columns, { heading, unit, stretch: part.stretch, median, p90 }, t),
    rows: [[heading, 'orders'], ...part.distribution.map((b) => [b.length, b.orders])],
    points: columns.map((c) => ({
      words: wordsOf(c, unit),
      to: ordersBehind(question, { state: 'counted', shortest: c.shortest, longest: c.longest }),
    })),
  }
}
