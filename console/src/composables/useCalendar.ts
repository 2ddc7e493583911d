import { computed, type Ref, ref, shallowRef, watch } from 'vue'
import { type Calendar, type CalendarDefinition, type CalendarEffect, Problem, sendJSON } from '@/api/client'
import { useAnswer } from './useAnswer'

/** What a day can be made: as its week has it, or one of the kinds that stand by themselves. */
export type DayKind = 'week' | 'holiday' | 'half day' | 'extra working day'

/** What is written down about a day. */
export interface DayEntry {
  kind: DayKind
  name: string
  hours: string
}

const pathOf = (name: string) => `/calendars/${encodeURIComponent(name)}`

/** How long typing may pause before what it would do is asked for, in milliseconds. */
const pause = 150

/**
 * useCalendar shows a calendar over a year and lets it be changed: a draft says what it would do to lengths, and is
 * saved or dropped as a whole.
 */
export function useCalendar(
  name: Ref<string | undefined>,
  year: Ref<number | undefined>,
  exists: Ref<boolean | undefined>,
  saved: () => void,
) {
  const round = ref(0)
  const { answer, problem, loading, retry } = useAnswer<Calendar>(() =>
    name.value && exists.value
      ? { path: pathOf(name.value), query: { year: year.value }, round: round.value }
      : undefined,
  )
  const draft = shallowRef<CalendarDefinition>()
  const effect = shallowRef<CalendarEffect>()
  const refused = ref('')
  const saving = ref(false)

  /** A calendar that is not there yet begins as Monday to Friday. */
  const fresh = (): CalendarDefinition => ({
    weeks: [{ from: '1900-01-01', days: 'Mon Tue Wed Thu Fri' }],
    hours: [],
    holidays: [],
    half_days: [],
    extra_days: [],
  })
  const drop = () => (draft.value = exists.value === false ? fresh() : undefined)
  watch([name, exists], drop, { immediate: true })
  watch(
    [draft, year],
    ([now], _before, onCleanup) => {
      refused.value = ''
      if (!now || !name.value) {
        effect.value = undefined
        return
      }
      const control = new AbortController()
      const path = `${pathOf(name.value)}/effect`
      const timer = setTimeout(() => {
        sendJSON<CalendarEffect>('POST', path, { year: year.value }, now, control.signal)
          .then((got) => (effect.value = got))
          .catch((error: unknown) => {
            if (!control.signal.aborted)
              refused.value = error instanceof Error ? error.message : String(error)
          })
      }, pause)
      onCleanup(() => {
        clearTimeout(timer)
        control.abort()
      })
    },
    { immediate: true },
  )

  /** The definition as it is on the page. */
  const definition = computed(() => draft.value ?? answer.value?.definition)

  function change(to: Partial<CalendarDefinition>) {
    if (definition.value) draft.value = { ...definition.value, ...to }
  }

  /** What is written down about a day. */
  function entryOf(day: string): DayEntry {
    const d = definition.value
    const half = d?.half_days.find((h) => h.day === day)
    if (half) return { kind: 'half day', name: half.name, hours: half.hours ?? '' }
    const extra = d?.extra_days.find((e) => e.day === day)
    if (extra) return { kind: 'extra working day', name: extra.name, hours: '' }
    const holiday = d?.holidays.find((h) => h.day === day)
    return { kind: holiday ? 'holiday' : 'week', name: holiday?.name ?? '', hours: '' }
  }

  /** Writes down what a day is, in the place of what was written about it. */
  function write(day: string, entry: DayEntry) {
    const d = definition.value
    if (!d) return
    const others = <T extends { day: string }>(days: readonly T[]) => days.filter((e) => e.day !== day)
    const named = { day, name: entry.name }
    const add = (kind: DayKind) => (entry.kind === kind ? [named] : [])
    change({
      holidays: [...others(d.holidays), ...add('holiday')],
      extra_days: [...others(d.extra_days), ...add('extra working day')],
      half_days: [
        ...others(d.half_days),
        ...(entry.kind === 'half day' ? [{ ...named, hours: entry.hours }] : []),
      ],
    })
  }

  async function save() {
    if (!draft.value || !name.value) return
    saving.value = true
    try {
      await sendJSON<Calendar>('PUT', pathOf(name.value), {}, draft.value)
      draft.value = undefined
      round.value++
      saved()
    } catch (error) {
      refused.value = error instanceof Problem ? error.message : String(error)
    }
    saving.value = false
  }

  return {
    answer,
    problem,
    loading,
    retry,
    draft,
    definition,
    effect,
    refused,
    saving,
    change,
    entryOf,
    write,
    save,
    drop,
  }
}
