import { computed, inject } from 'vue'
import { useRoute } from 'vue-router'
import type { Document } from '@/api/document'
import { BOOK } from '@/keys'
import { groupingNames, labelOf, type OwnWord, type Question } from '@/question'
import { useAddress } from './useAddress'
import { useAnswer } from './useAnswer'

/** The parts of orders that can be counted, with a condition on them to begin with; goods are of lines. */
const parts: Record<string, string> = {
  lines: 'line.delivered > requested',
  shipments: 'shipment.delivered > promised',
  payments: 'payment.paid > invoiced',
}
const partOf = (figure: string | undefined) =>
  figure === 'units' || figure === 'value' ? 'lines' : figure && figure in parts ? figure : undefined

/** Figures that can be picked; statistics are of the leg. */
export const figures = [
  'orders',
  'lines',
  'units',
  'value',
  'shipments',
  'payments',
  'mean',
  'median',
  'p90',
  'immediate',
  'one-shipment',
  'share',
]
const figureNames: Record<string, string> = {
  mean: 'mean length',
  median: 'median length',
  p90: '90th percentile of the length',
  immediate: 'share immediate',
  'one-shipment': 'share shipped complete in one shipment',
  share: 'share that meets a condition',
}

/**
 * useCounting asks a question that counts by dates, in the words of the address; what is missing there takes the page's default,
 * and an empty word takes a default away. It gives the words of the sentence.
 */
export function useCounting(path: string, words: readonly string[], defaults: Record<string, string>) {
  const route = useRoute()
  const book = inject(BOOK)
  const { text, to } = useAddress()
  const query = computed<Record<string, string | undefined>>(() =>
    Object.fromEntries(
      [
        ...words,
        'show',
        'from',
        'to',
        'in',
        'count',
        'basis',
        'period',
        ...Object.keys(parts),
        'meets',
        'where',
      ].map((name) => [name, name in route.query ? text(name) : defaults[name]]),
    ),
  )
  const asked = computed(() => ({ path, query: query.value }))
  const asking = useAnswer<Document>(asked)

  const list = (name: string) => (query.value[name] ?? '').split(',').filter(Boolean)
  const shows = computed(() => list('show'))
  const bases = computed(() => list('basis'))
  const known = computed(() => book?.value?.milestones.filter((m) => m.first) ?? [])
  const milestones = computed(() => known.value.map((m) => m.name))
  const dates = computed(() => Object.fromEntries(known.value.map((m) => [m.name, m.date])))
  const groupings = computed(() => [
    ...(book?.value?.groupings ?? []),
    ...(book?.value?.part_groupings ?? []),
  ])

  /** The answer, whose sentence has a slot of its own for each date. */
  const document = computed<Document | undefined>(() => {
    const d = asking.answer.value
    if (!d) return undefined
    let date = 0
    return {
      ...d,
      sentence: d.sentence.map((w) => (w.slot === 'basis' ? { ...w, slot: `basis-${date++}` } : w)),
    }
  })

  const leaveOut = 'leave it out'
  const own = computed<Record<string, OwnWord>>(() => {
    const units = book?.value?.units ?? []
    const placing = Object.fromEntries(
      bases.value.map((chosen, i) => [
        `basis-${i}`,
        {
          choices: [
            ...(bases.value.length > 1 ? [leaveOut] : []),
            ...milestones.value.filter((m) => m === chosen || !bases.value.includes(m)),
          ],
          chosen,
        },
      ]),
    )
    const groups = (name: 'rows' | 'columns', other: 'rows' | 'columns') => ({
      choices: [
        ...(query.value[other] ? ['nothing'] : []),
        ...groupings.value.filter((g) => g !== query.value[other]),
      ],
      names: groupingNames(groupings.value, known.value),
      chosen: query.value[name] ?? 'nothing',
    })
    return {
      ...placing,
      show: { choices: figures, names: figureNames, chosen: shows.value[0] ?? 'orders' },
      period: {
        choices: ['all days', ...(book?.value?.periods ?? [])],
        chosen: query.value.period ?? 'all days',
        example: '2026-07-06/2026-08-02',
      },
      each: { choices: ['day', 'week', 'month', 'quarter', 'year'], chosen: query.value.each ?? 'month' },
      rows: groups('rows', 'columns'),
      columns: groups('columns', 'rows'),
      from: { choices: milestones.value, names: dates.value, chosen: query.value.from ?? 'ordered' },
      to: { choices: milestones.value, names: dates.value, chosen: query.value.to ?? 'shipped' },
      in: {
        choices: units.map((u) => u.name),
        names: Object.fromEntries(units.map((u) => [u.name, u.words])),
        chosen: query.value.in ?? 'working-days',
      },
      count: {
        choices: ['elapsed', 'both-ends'],
        names: { elapsed: labelOf('elapsed'), 'both-ends': labelOf('both-ends') },
        chosen: query.value.count ?? 'elapsed',
      },
      top: { choices: ['all', '3', '5', '10', '20'], chosen: query.value.top ?? 'all', example: '7' },
      ...Object.fromEntries(
        Object.entries(parts).map(([part, example]) => [
          part,
          { choices: [`all ${part}`], chosen: query.value[part] ?? '', example },
        ]),
      ),
      meets: { choices: [], chosen: query.value.meets ?? '', example: 'shipped == ordered' },
    }
  })

  /** A share needs a condition to begin with. */
  const setShows = (show: readonly string[]) =>
    to({
      show: show.join(','),
      ...(show.includes('share') && !query.value.meets ? { meets: 'shipped == ordered' } : {}),
      // Orders, and other parts, are picked by other conditions.
      ...Object.fromEntries(
        Object.keys(parts)
          .filter((part) => !show.every((figure) => partOf(figure) === part))
          .map((part) => [part, undefined]),
      ),
    })

  function pick(slot: string, word: string) {
    const [name, place] = slot.split('-')
    if (name === 'basis') {
      const dates = [...bases.value]
      dates.splice(Number(place), 1, ...(word === leaveOut ? [] : [word]))
      to({ basis: dates.join(',') })
    } else if (name === 'show') {
      setShows([word, ...shows.value.slice(1).filter((s) => s !== word)])
    } else {
      to({
        [slot]: ['all days', 'nothing', 'all', ...Object.keys(parts).map((p) => `all ${p}`)].includes(word)
          ? ''
          : word,
      })
    }
  }
  /** What can be counted of some only: the lines, shipments or payments of all figures. */
  const some = computed(() => {
    const part = partOf(shows.value[0])
    return part && !query.value[part] && shows.value.every((s) => partOf(s) === part) ? part : undefined
  })
  const pickSome = (part: string) => to({ [part]: parts[part] })

  const ask = (changed: Question) => to({ where: changed.where })

  return {
    ...asking,
    document,
    asked,
    query,
    text,
    to,
    own,
    pick,
    some,
    pickSome,
    ask,
    shows,
    setShows,
    bases,
    milestones,
    groupings,
    known,
  }
}
