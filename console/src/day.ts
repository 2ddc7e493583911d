const form = /^\d{4}-\d{2}-\d{2}$/

/** Says what is wrong with a typed day; undefined where it is one, within the days that can be picked. */
export function faultOfDay(text: string, first?: string, last?: string): string | undefined {
  if (!form.test(text)) return 'Write the day as 2026-03-02'
  const at = new Date(`${text}T00:00:00Z`)
  if (Number.isNaN(at.getTime()) || at.toISOString().slice(0, 10) !== text) return 'There is no such day'
  if ((first && text < first) || (last && text > last)) return `Pick a day from ${first} to ${last}`
  return undefined
}
