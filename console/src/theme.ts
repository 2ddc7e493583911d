// The design tokens: dusk over grassland. Every colour of the console, charts included, comes from here.

/** Tokens are the colours of one theme. */
export interface Tokens {
  background: string // paper, or the night sky
  surface: string // what lies on it
  line: string // hairlines
  ink: string // text
  muted: string // text that steps back
  amber: string // what the eye should find
  teal: string // its calm opposite
  plum: string // between the two
  bad: string // what went wrong
}

export const light: Tokens = {
  background: '#f8f3e8',
  surface: '#fffdf8',
  line: '#ddd3c2',
  ink: '#2b2233',
  muted: '#655b6c',
  amber: '#945200',
  teal: '#1f6f68',
  plum: '#7a3f86',
  bad: '#a3321f',
}

export const dark: Tokens = {
  background: '#1c1622',
  surface: '#261f2e',
  line: '#43394d',
  ink: '#f1eadf',
  muted: '#b5aabb',
  amber: '#eda63a',
  teal: '#74c2b8',
  plum: '#c99ad2',
  bad: '#f08a74',
}

/** The colours of statuses, by their name in the list of statuses: first in the light, then in the dark. */
const statusColours: Readonly<Record<string, readonly [light: string, dark: string]>> = {
  teal: ['#1f6f68', '#74c2b8'],
  plum: ['#7a3f86', '#c99ad2'],
  amber: ['#b8741a', '#eda63a'],
  clay: ['#a3321f', '#f08a74'],
  sage: ['#6d8a4e', '#a9c588'],
  slate: ['#566a86', '#9fb3cf'],
  rose: ['#b5527a', '#e79bbb'],
  sand: ['#a89470', '#cdbb98'],
}

/** The colour of a status; one without its own has the next of the palette by its place. */
export function statusColour(colour: string | undefined, place: number, t: Tokens): string {
  const all = Object.values(statusColours)
  const [day, night] = statusColours[colour ?? ''] ?? all[place % all.length] ?? [t.muted, t.muted]
  return t === dark ? night : day
}

/** The colours of a theme under the names that Vuetify uses. */
export function vuetifyColors(t: Tokens): Record<string, string> {
  return {
    background: t.background,
    surface: t.surface,
    'on-background': t.ink,
    'on-surface': t.ink,
    primary: t.teal,
    secondary: t.amber,
    warning: t.amber,
    error: t.bad,
    line: t.line,
    muted: t.muted,
    plum: t.plum,
  }
}
