import type { EChartsOption } from 'echarts'
import type { RouteLocationRaw } from 'vue-router'
import { shortMonth } from '@/format'
import type { Tokens } from '@/theme'

/** A thing that a picture shows, in words, and where it leads. */
export interface Point {
  words: string
  to?: RouteLocationRaw
  /** Its place in the picture; the first series, and its own place among the points. */
  series?: number
  data?: number
}

/** A picture with what can be taken away of it. */
export interface Picture {
  option: EChartsOption
  /** What the CSV file holds: a header, then the rows. */
  rows?: readonly (readonly (string | number)[])[]
  points: readonly Point[]
  /** How to read it, where that is not plain. */
  note?: string
  /** In pixels. */
  height?: number
}

/** What every picture has alike. */
export function frame(t: Tokens): EChartsOption {
  return {
    animation: false,
    textStyle: { fontFamily: 'Inter Variable, sans-serif', color: t.ink },
  }
}

/** A tooltip of plain text, which nothing from a file can break out of. */
export function tooltip(t: Tokens) {
  return {
    renderMode: 'richText',
    backgroundColor: t.surface,
    borderColor: t.line,
    textStyle: { color: t.ink },
  } as const
}

/** The name of an axis goes on in the next line, so that it does not take the room of a narrow picture. */
export const nameStyle = (t: Tokens) => ({ color: t.muted, width: 290, overflow: 'break' }) as const

/** An axis of values under its name. */
export function valueAxis(name: string, t: Tokens, gap = 48) {
  return {
    type: 'value',
    name,
    nameLocation: 'middle',
    nameGap: gap,
    nameTextStyle: nameStyle(t),
    splitLine: { lineStyle: { color: t.line } },
    axisLabel: { color: t.muted },
  } as const
}

/** An axis of names. */
export function nameAxis(names: readonly string[], t: Tokens) {
  return {
    type: 'category' as const,
    data: [...names],
    axisLine: { lineStyle: { color: t.muted } },
    axisTick: { show: false },
    axisLabel: { color: t.muted, formatter: (name: string) => shortMonth(name) },
  }
}

/** The legend above a picture. */
export function legend(t: Tokens) {
  return { top: 0, left: 64, itemWidth: 22, itemHeight: 12, textStyle: { color: t.ink } } as const
}

/** An empty cell of a file for what is not known. */
export function cell(x: number | null | undefined): string | number {
  return x ?? ''
}
