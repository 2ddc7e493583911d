import { computed, inject } from 'vue'
import { type RouteLocationRaw, useRoute, useRouter } from 'vue-router'
import type { Across, AcrossFigure, Asked } from '@/api/client'
import { BOOK } from '@/keys'
import { labelOf, ordersBehind, type OwnWord, type Question, type Selection } from '@/question'
import { useAnswer } from './useAnswer'

/** The words of the address that the service is asked by. */
const words = [
  'show',
  'from',
  'to',
  'in',
  'count',
  'basis',
  'period',
  'rows',
  'columns',
  'each',
  'top',
  'sort',
  'empty',
  'meets',
  'where',
] as const

/** Figures that can be picked; statistics are of the leg. */
export const figures = ['orders', 'lines', 'units', 'value', 'mean', 'median', 'p90', 'immediate', 'share']
const figureNames: Record<string, string> = {
  mean: 'mean length',
  median: 'median length',
  p90: '90th percentile of the length',
  immediate: 'share immediate',
  share: 'share that meets a condition',
}

/**
 * useAcross asks for figures by rows and columns, or by several dates, in the words of the address; what is missing there
 * takes the page's default. It gives the words of the sentence, and the orders behind its numbers.
 */
export function useAcross(defaults: Partial<Record<(typeof words)[number], string>>) {
  const route = useRoute()
  const router = useRouter()
  const book = inject(BOOK)
  const text = (name: string) => {
    const value = route.query[name]
    return typeof value === 'string' && value ? value : undefined
  }
  const query = computed(() =>
    // An empty word takes a default away.
    Object.fromEntries(words.map((name) => [name, name in route.query ? text(name) : defaults[name]])),
  )
  const asking = useAnswer<Across>(() => ({ path: '/across', query: query.value }))
  const to = (changed: Record<string, string | undefined>) =>
    router.push({ query: { ...route.query, order: undefined, ...changed } })

  const list = (name: 'show' | 'basis') => (query.value[name] ?? '').split(',').filter(Boolean)
  const shows = computed(() => list('show'))
  const bases = computed(() => list('basis'))

  const milestones = computed(() => book?.value?.milestones.filter((m) => m.first).map((m) => m.name) ?? [])
  const groupings = computed(() => [
    ...(book?.value?.groupings ?? []),
    ...(book?.value?.line_groupings ?? []),
  ])

  /** The sentence with a slot of its own for each date. */
  const asked = computed<Asked | undefined>(() => {
    const a = asking.answer.value
    if (!a) return undefined
    let date = 0
    return {
      sentence: a.sentence,
      sentence_parts: a.sentence_parts.map((p) =>
        p.slot === 'basis' ? { ...p, slot: `basis-${date++}` } : p,
      ),
      from: query.value.from ?? 'ordered',
      to: query.value.to ?? 'shipped',
      unit: query.value.in ?? 'working-days',
      count_rule: query.value.count ?? 'elapsed',
      calendar: 'site',
      heading: '',
      where: a.where,
      basis: '',
      by: [],
      through: [],
    }
  })

  const leaveOut = 'leave it out'
  const own = computed<Record<string, OwnWord>>(() => {
    const units = book?.value?.units ?? []
    const dates = Object.fromEntries(
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
      chosen: query.value[name] ?? 'nothing',
    })
    return {
      ...dates,
      show: { choices: figures, names: figureNames, chosen: shows.value[0] ?? 'orders' },
      period: {
        choices: ['all days', ...(book?.value?.periods ?? [])],
        chosen: query.value.period ?? 'all days',
        example: '2026-07-06/2026-08-02',
      },
      each: { choices: ['day', 'week', 'month', 'quarter', 'year'], chosen: query.value.each ?? 'month' },
      rows: groups('rows', 'columns'),
      columns: groups('columns', 'rows'),
      from: { choices: milestones.value, chosen: query.value.from ?? 'ordered' },
      to: { choices: milestones.value, chosen: query.value.to ?? 'shipped' },
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
      meets: { choices: [], chosen: query.value.meets ?? '', example: 'shipped == ordered' },
    }
  })

  /** A share needs a condition to begin with. */
  const firstShare = (show: readonly string[]) =>
    show.includes('share') && !query.value.meets ? { meets: 'shipped == ordered' } : {}

  function pick(slot: string, word: string) {
    const [name, place] = slot.split('-')
    if (name === 'basis') {
      const dates = [...bases.value]
      dates.splice(Number(place), 1, ...(word === leaveOut ? [] : [word]))
      to({ basis: dates.join(',') })
    } else if (name === 'show') {
      setShows([word, ...shows.value.slice(1).filter((s) => s !== word)])
    } else {
      const none = ['all days', 'nothing', 'all'].includes(word)
      to({ [slot]: none ? '' : word })
    }
  }
  const setShows = (show: readonly string[]) => to({ show: show.join(','), ...firstShare(show) })

  const ask = (changed: Question) => to({ where: changed.where })

  /** The orders behind a number of a figure. */
  function behind(f: AcrossFigure, selection: Selection): RouteLocationRaw {
    const {
      from,
      to: end,
      in: unit,
      count,
      basis,
      period,
      where,
      each,
      rows,
      columns,
      meets,
      top,
    } = query.value
    return ordersBehind(
      { from, to: end, in: unit, count, basis, period, where },
      {
        figure: f.show,
        each,
        across_rows: each ? undefined : rows,
        across_columns: columns,
        meets: f.show === 'share' ? meets : undefined,
        top,
        ...selection,
      },
    )
  }

  /** Of a value, the currency that is looked at; the first has most orders. */
  const partOf = (f: AcrossFigure) =>
    f.parts.find((p) => (p.currency || 'none') === text('currency')) ?? f.parts[0]

  return {
    ...asking,
    partOf,
    query,
    text,
    to,
    asked,
    own,
    pick,
    ask,
    behind,
    shows,
    setShows,
    bases,
    milestones,
    groupings,
  }
}
