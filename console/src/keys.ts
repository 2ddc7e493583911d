import type { InjectionKey, ShallowRef } from 'vue'
import type { Book } from './api/client'

/** The order book as a whole, for every page. */
export const BOOK: InjectionKey<Readonly<ShallowRef<Book | undefined>>> = Symbol('book')

/** Says that the page itself has changed the book. */
export const CHANGED: InjectionKey<() => void> = Symbol('changed')
