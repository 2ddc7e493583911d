/** The first days of a month and of the one after it, as text. */
const firstOf = (year: number, month: number) => new Date(Date.UTC(year, month, 1)).toISOString().slice(0, 10)
const dayBefore = (day: string) =>
  new Date(Date.parse(`${day}T00:00:00Z`) - 86_400_000).toISOString().slice(0, 10)

/** The year and the month, from 0, of the first day after the last full month. */
function afterFullMonths(dataDate: string): [year: number, month: number] {
  const next = new Date(Date.parse(`${dataDate}T00:00:00Z`) + 86_400_000)
  return [next.getUTCFullYear(), next.getUTCMonth()]
}

/** The last full quarter up to the data date, and the one before: 2026-Q3 and 2026-Q2. */
export function lastQuarters(dataDate: string): [last: string, before: string] {
  const [year, month] = afterFullMonths(dataDate)
  const quarters = year * 4 + Math.floor(month / 3) - 1
  const name = (n: number) => `${Math.floor(n / 4)}-Q${(n % 4) + 1}`
  return [name(quarters), name(quarters - 1)]
}

/** The last 13 full months up to the data date, as far as the records go: 2025-10-01/2026-10-31. */
export function lastMonths(firstDay: string, dataDate: string): string {
  const [year, month] = afterFullMonths(dataDate)
  const from = firstOf(year, month - 13)
  const to = dayBefore(firstOf(year, month))
  return to <= firstDay ? '' : `${from < firstDay ? firstDay : from}/${to}`
}

/** What a page asks when it is opened from the list of pages, so that its first picture says something. */
export function openingQuestion(
  path: string,
  book: { orders: number; first_day: string; data_date: string },
): Record<string, string> {
  if (book.orders === 0) return {}
  const [last, before] = lastQuarters(book.data_date)
  const months = lastMonths(book.first_day, book.data_date)
  const has = (quarter: string) =>
    `${quarter.slice(0, 4)}-${String(Number(quarter.slice(6)) * 3).padStart(2, '0')}` >=
    book.first_day.slice(0, 7)
  switch (path) {
    case '/how-long':
      return has(last) ? { period: has(before) ? `${last},${before}` : last } : {}
    case '/places':
      return { to: 'delivered', ...(months ? { period: months } : {}) }
    case '/immediate':
      return has(last) ? { period: last } : {}
    case '/open':
      return months ? { period: months, each: 'month' } : {}
    case '/compare':
    case '/crosstab':
      return months ? { period: months } : {}
  }
  return {}
}
