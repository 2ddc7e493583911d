import type { Immediate, ImmediateGroup, ImmediatePart, Rate } from '@/api/client'
import { count, decimal, keyName } from '@/format'
import type { Tokens } from '@/theme'
import { cell, frame, legend, nameAxis, type Picture, type Point, tooltip, valueAxis } from './frame'

/** A rate with both its numbers: "2,118 of 5,730". */
export function rateWords(r: Rate): string {
  return r.all === 0 ? 'no orders' : `${count(r.some)} of ${count(r.all)}`
}

/** Its interval, as far as there is one. */
export function intervalWords(r: Rate): string {
  return r.low === null || r.high === null ? '' : `${decimal(r.low, 2)} to ${decimal(r.high, 2)}`
}

/** How many groups are drawn; the table has all. */
const mostGroups = 40

/** immediatePicture draws what was asked for at once, and what was got, each in percent, for each group. It is pure. */
export function immediatePicture(
  a: Immediate,
  part: ImmediatePart,
  behind: (what: string, g: ImmediateGroup) => Point['to'],
  t: Tokens,
): Picture {
  const groups = part.groups.length > 0 ? part.groups.slice(0, mostGroups) : [part.total]
  const name = (g: ImmediateGroup) => (g.keys.length > 0 ? g.keys.map(keyName).join(', ') : 'all')
  const percent = (r: Rate) => (r.all === 0 ? null : (100 * r.some) / r.all)
  const words = (g: ImmediateGroup | undefined, got: boolean) => {
    if (!g) return ''
    const r = got ? g.got : g.asked
    const said = got ? `${a.got} on the day of the order` : 'requested for the day of the order'
    const within = intervalWords(r)
    return (
      `${name(g)}: ${rateWords(r)} ${said}` +
      (r.all > 0 ? `, ${r.percent}%` : '') +
      (within ? ` (95%: ${within})` : '')
    )
  }
  const bar = (got: boolean, look: object) => ({
    name: got ? `got: ${a.got} on the day of the order` : 'asked: requested for the day of the order',
    type: 'bar' as const,
    cursor: 'pointer',
    itemStyle: look,
    emphasis: { itemStyle: { borderColor: t.ink, borderWidth: 2 } },
    label: {
      show: groups.length <= 12,
      position: 'top' as const,
      color: t.ink,
      formatter: (p: { dataIndex: number }) => {
        const g = groups[p.dataIndex]
        const r = got ? g?.got : g?.asked
        return r && r.all > 0 ? `${r.percent}%` : ''
      },
    },
    data: groups.map((g) => percent(got ? g.got : g.asked)),
  })
  return {
    height: 320,
    option: {
      ...frame(t),
      legend: legend(t),
      grid: { left: 64, right: 24, top: 44, bottom: 44 },
      xAxis: nameAxis(groups.map(name), t),
      yAxis: { ...valueAxis('percent', t), min: 0, max: 100 },
      tooltip: {
        ...tooltip(t),
        formatter: (hit) => {
          const at = [hit].flat()[0]
          return words(groups[at?.dataIndex ?? -1], at?.seriesIndex === 1)
        },
      },
      series: [
        bar(false, { color: t.teal }),
        bar(true, {
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
      [
        'group',
        'requested for that day',
        'of',
        'percent',
        'low',
        'high',
        `${a.got} that day`,
        'of',
        'percent',
      ],
      ...groups.map((g) => [
        name(g),
        g.asked.some,
        g.asked.all,
        g.asked.percent,
        cell(g.asked.low),
        cell(g.asked.high),
        g.got.some,
        g.got.all,
        g.got.percent,
      ]),
    ],
    points: groups.flatMap((g, data) => [
      { words: words(g, false), to: behind('immediate', g), series: 0, data },
      { words: words(g, true), to: behind('any:on-the-day', g), series: 1, data },
    ]),
    note:
      part.groups.length > mostGroups
        ? `The first ${mostGroups} of ${count(part.all_groups)} groups; the table has all.`
        : undefined,
  }
}
