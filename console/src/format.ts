const grouped = new Intl.NumberFormat('en', { maximumFractionDigits: 0 })

/** A count with commas between thousands. */
export function count(n: number): string {
  return grouped.format(n)
}

/** A count with its noun, which takes an s for any number but one. */
export function counted(n: number, noun: string): string {
  return `${count(n)} ${noun}${n === 1 ? '' : 's'}`
}

/** A statistic with so many decimals; nothing where there is none. */
export function decimal(x: number | null, places: number): string {
  if (x === null) return ''
  const text = x.toFixed(places)
  return Number(text) === 0 ? text.replace('-', '') : text
}

/** A length: whole where it is, else with two decimals. */
export function length(x: number | null): string {
  return decimal(x, x !== null && Number.isInteger(x) ? 0 : 2)
}

const weekdays = ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat']

/** The day with its weekday before it. A day stays text: only the weekday is reckoned, in UTC. */
export function withWeekday(day: string): string {
  return `${weekdays[weekdayOf(day)]} ${day}`
}

/** 0 for Sunday to 6 for Saturday. */
export function weekdayOf(day: string): number {
  return new Date(`${day}T00:00:00Z`).getUTCDay()
}

/** The name of a group's key. */
export function keyName(key: string): string {
  return key === '' ? '(none)' : key
}

/** The name of a group's key, with what a reader has to know of its step of time. */
export function stepName(
  group: { step?: { cut: boolean; outside?: boolean; begins: boolean } },
  key: string,
): string {
  return (
    keyName(key) +
    (group.step?.cut ? ' (part)' : '') +
    (group.step?.outside ? ' (not in the book)' : '') +
    (group.step?.begins ? ' (book begins)' : '')
  )
}

/** The names of a group's keys. */
export function keysOf(group: {
  keys: readonly string[]
  step?: { key: number; cut: boolean; outside?: boolean; begins: boolean }
}): string[] {
  return group.keys.map((key, i) => (group.step?.key === i ? stepName(group, key) : keyName(key)))
}

/** A statistic under its name: the mean and the standard deviation with two decimals, lengths as they are. */
export function figure(name: string, x: number | null): string {
  if (name === 'mean' || name === 'standard-deviation') return decimal(x, 2)
  return name === 'min' || name === 'max' ? length(x) : decimal(x, 1)
}

/** Names as the choices of a field, each reading as itself, perhaps behind a word. */
export function named(names: readonly string[], before?: string): Record<string, string> {
  return Object.fromEntries(names.map((name) => [name, before ? `${before} ${name}` : name]))
}

const monthNames = new Intl.DateTimeFormat('en', { month: 'long', year: 'numeric', timeZone: 'UTC' })

/** A month for people: July 2026 for 2026-07; anything else as it stands. */
export function monthName(month: string): string {
  return /^\d{4}-\d\d$/.test(month) ? monthNames.format(new Date(`${month}-01T00:00:00Z`)) : month
}

const shortMonths = new Intl.DateTimeFormat('en', { month: 'short', year: 'numeric', timeZone: 'UTC' })

/** A month for headings and axes: Jul 2026 for 2026-07, whatever follows; anything else as it stands. */
export function shortMonth(text: string): string {
  return text.replace(/^\d{4}-\d\d(?=$|[ (])/, (month) =>
    shortMonths.format(new Date(`${month}-01T00:00:00Z`)),
  )
}
