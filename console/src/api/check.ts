import { type Query, search } from './client'

// Questions whose answers can be checked, as addresses: took?by=site&period=2026-Q3.

export const analyses: Readonly<Record<string, string>> = {
  '/took': 'took',
  '/places': 'places',
  '/open': 'open',
  '/due': 'due',
  '/forecast': 'forecast',
  '/immediate': 'immediate',
  '/immediate/customers': 'immediate-customers',
  '/orders': 'orders',
  '/quality': 'quality',
  '/status/periods': 'status-periods',
  '/compare': 'compare',
  '/crosstab': 'crosstab',
  '/status/latest': 'status-latest',
  '/status/times': 'status-times',
  '/status/transitions': 'status-transitions',
}

export const checkable = (path: string) => path in analyses

/** A question as its address; which rows of a long list are shown is no part of it. */
export function questionOf({ path, query }: { path: string; query: Query }): string {
  return analyses[path] + (search({ ...query, offset: undefined, limit: undefined }) || '?')
}
