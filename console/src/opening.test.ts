import { expect, test } from 'vitest'
import { lastMonths, lastQuarters, openingQuestion } from './opening'

test('the last full quarters', () => {
  expect(lastQuarters('2026-10-31')).toEqual(['2026-Q3', '2026-Q2'])
  expect(lastQuarters('2026-09-30')).toEqual(['2026-Q3', '2026-Q2'])
  expect(lastQuarters('2026-09-29')).toEqual(['2026-Q2', '2026-Q1'])
  expect(lastQuarters('2026-02-10')).toEqual(['2025-Q4', '2025-Q3'])
})

test('the last 13 full months, within the records', () => {
  expect(lastMonths('2025-01-01', '2026-10-31')).toBe('2025-10-01/2026-10-31')
  expect(lastMonths('2025-01-01', '2026-10-30')).toBe('2025-09-01/2026-09-30')
  expect(lastMonths('2026-06-15', '2026-10-31')).toBe('2026-06-15/2026-10-31')
  expect(lastMonths('2026-10-05', '2026-10-20')).toBe('')
})

test('pages open on what the records have', () => {
  const book = { orders: 1, first_day: '2026-08-01', data_date: '2026-10-31' }
  expect(openingQuestion('/how-long', book)).toEqual({ period: '2026-Q3' })
  expect(openingQuestion('/how-long', { ...book, first_day: '2025-01-01' })).toEqual({
    period: '2026-Q3,2026-Q2',
  })
  expect(openingQuestion('/how-long', { ...book, first_day: '2026-10-01' })).toEqual({})
  expect(openingQuestion('/open', { ...book, orders: 0 })).toEqual({})
})
