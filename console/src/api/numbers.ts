import { get } from './client'
import type { Document } from './document'

/** How many orders are offered by their number. */
const most = 8

/** The numbers of orders that hold what is typed, in the order of their numbers. */
export async function numbersHolding(typed: string, signal: AbortSignal): Promise<string[]> {
  const where = `number.contains(${JSON.stringify(typed)})`
  const query = { where, columns: 'number', sort: 'number', limit: most }
  const list = await get<Document>('/orders', query, signal)
  return list.parts.flatMap((p) => p.tables.flatMap((t) => t.rows.flatMap((r) => r.order ?? [])))
}
