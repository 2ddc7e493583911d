import type { EChartsOption, GraphicComponentOption } from 'echarts'
import type { RouteLocationRaw } from 'vue-router'
import { cellOf, numberOf, ordersBehind, type Part, tableOf } from '@/api/document'
import { count, counted } from '@/format'
import { light, type Tokens } from '@/theme'
import { frame, nameAxis, type Picture, type Point, tooltip, valueAxis } from './frame'

/** A place, a country or a route with its figure. */
export interface Place {
  name: string
  /** The site that a route begins at. */
  site?: string
  orders: number
  n: number
  figure: number | null
  /** The figure as the table has it, and its interval. */
  text: string
  interval: string
  /** Too few to be ranked. */
  few: boolean
  at?: readonly [longitude: number, latitude: number]
  to?: RouteLocationRaw
}

/** The places of an answer, in its order: the longest first. */
export function placesOf(part: Part): Place[] {
  const table = tableOf(part, 'places')
  const key = ['place', 'region', 'country'].find((code) => table.columns.some((c) => c.code === code)) ?? ''
  const region = key === 'region' ? 'country' : undefined
  return table.rows.map((row) => {
    const number = (code: string) => numberOf(table, row, code)
    const text = (code: string) => cellOf(table, row, code).text
    const [latitude, longitude] = [number('latitude'), number('longitude')]
    return {
      name: text(key) + (region ? `, ${text(region)}` : ''),
      site: table.columns.some((c) => c.code === 'site') ? text('site') : undefined,
      orders: number('orders') ?? 0,
      n: number('n') ?? 0,
      figure: number('figure'),
      text: text('figure'),
      interval: text('low') && text('high') ? `${text('low')} to ${text('high')}` : '',
      few: row.remarks?.includes('few') ?? false,
      ...(latitude !== null && longitude !== null ? { at: [longitude, latitude] as const } : {}),
      to: ordersBehind(cellOf(table, row, 'n').behind ?? cellOf(table, row, 'orders').behind),
    }
  })
}

/** What colours are told by: the middle is a target that was typed, or the figure of all orders. */
export interface Scale {
  low: number
  middle: number
  high: number
  /** What the middle is, in words. */
  of: string
}

/** The scale of places: from the least to the greatest of those that are ranked. */
export function scaleOf(places: readonly Place[], all: number | null, target?: number): Scale {
  const figures = places.filter((p) => !p.few && p.figure !== null).map((p) => p.figure as number)
  const middle = target ?? all ?? 0
  return {
    low: Math.min(middle, ...figures),
    middle,
    high: Math.max(middle, ...figures),
    of: target === undefined ? 'all orders' : 'the target',
  }
}

/** A colour between two, each as #rrggbb. */
function mix(a: string, b: string, share: number): string {
  const part = (colour: string, at: number) => parseInt(colour.slice(at, at + 2), 16)
  return `#${[1, 3, 5]
    .map((at) =>
      Math.round(part(a, at) + (part(b, at) - part(a, at)) * share)
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`
}

/** The colour of a figure: teal below the middle, paper at it, amber and red above. High is warm. */
export function colourOf(figure: number, scale: Scale, t: Tokens): string {
  const share = (from: number, to: number) =>
    to === from ? 0 : Math.min(1, Math.max(0, (figure - from) / (to - from)))
  if (figure < scale.middle) return mix(t.teal, t.background, share(scale.low, scale.middle))
  const up = share(scale.middle, scale.high)
  return up < 0.5 ? mix(t.background, t.amber, 2 * up) : mix(t.amber, t.bad, 2 * up - 1)
}

/** The ink that is read on a colour. */
function inkOn(colour: string): string {
  const [red = 0, green = 0, blue = 0] = [1, 3, 5].map((at) => parseInt(colour.slice(at, at + 2), 16))
  return 0.299 * red + 0.587 * green + 0.114 * blue > 140 ? light.ink : light.surface
}

/** How a map is looked at: 1 shows the whole world. */
export interface View {
  zoom: number
  centre: readonly [longitude: number, latitude: number]
}

/** The size of the picture in which a map lies, without its legend. */
export interface Size {
  width: number
  height: number
}

/** The world without Antarctica, in degrees; a degree to the east is drawn three quarters as long as one to the north. */
const [west, east, south, north, aspect] = [-180, 191, -57, 84, 0.75] as const
const [span, rise] = [east - west, north - south] as const
export const world: View = { zoom: 1, centre: [(west + east) / 2, (south + north) / 2] }

/** How many pixels a degree north takes. */
const perDegree = (view: View, { width, height }: Size) =>
  view.zoom * Math.min(height / rise, width / (span * aspect))

/** The view that shows all of some places, with room around them. */
export function viewOf(places: readonly Place[], size: Size): View {
  const at = places.flatMap((p) => (p.at ? [p.at] : []))
  if (at.length === 0) return world
  const [easts, norths] = [at.map((a) => a[0]), at.map((a) => a[1])]
  const [left, right] = [Math.min(...easts), Math.max(...easts)]
  const [bottom, top] = [Math.min(...norths), Math.max(...norths)]
  const one = perDegree(world, size)
  const room = 0.8
  const zoom = Math.min(
    (room * size.width) / (one * aspect * Math.max(right - left, 0.5)),
    (room * size.height) / (one * Math.max(top - bottom, 0.5)),
  )
  return {
    zoom: Math.max(1, Math.min(mostZoom, zoom)),
    centre: zoom <= 1 ? world.centre : [(left + right) / 2, (bottom + top) / 2],
  }
}

export const mostZoom = 400

/** The height of a map with its legend, in pixels. */
export const mapHeight = 450

/** A circle on the map: a place, or several that would overlap. */
export interface Circle {
  places: readonly Place[]
  at: readonly [longitude: number, latitude: number]
  orders: number
  radius: number
}

/** The least and the greatest figure of some places that are ranked; undefined where none is. */
function rangeOf(places: readonly Place[]): readonly [low: number, high: number] | undefined {
  const figures = places.flatMap((p) => (p.few || p.figure === null ? [] : [p.figure]))
  return figures.length > 0 ? [Math.min(...figures), Math.max(...figures)] : undefined
}

const [smallest, largest] = [4, 24] as const
/** How many pixels lie between the middles of two circles: what is nearer cannot be told apart by a pointer. */
const apartAtLeast = 20

/** The circles that can be seen, and those a little beyond the edges, which come in while the map is moved. */
export function seen(circles: readonly Circle[], view: View, size: Size): Circle[] {
  const one = perDegree(view, size)
  return circles.filter(
    ({ at }) =>
      Math.abs(at[0] - view.centre[0]) * one * aspect < size.width &&
      Math.abs(at[1] - view.centre[1]) * one < size.height,
  )
}

/**
 * gather gives the circles of places, whose area is their number of orders. Those that would lie on each other are gathered into one,
 * which has no figure: what several places come to cannot be told from their figures. The greatest come first. It is pure, and takes
 * a step for each place and its neighbours.
 */
export function gather(places: readonly Place[], view: View, size: Size): Circle[] {
  const most = Math.max(1, ...places.map((p) => p.orders))
  const one = perDegree(view, size)
  const radius = (orders: number) => Math.max(smallest, largest * Math.sqrt(Math.min(1, orders / most)))
  const circles: { places: Place[]; x: number; y: number; orders: number; at: Place['at'] & object }[] = []
  const cells = new Map<string, number[]>()
  const cell = 2 * largest
  for (const place of [...places].sort((a, b) => b.orders - a.orders || (a.name < b.name ? -1 : 1))) {
    if (!place.at) continue
    const [x, y] = [place.at[0] * one * aspect, place.at[1] * one]
    const [column, row] = [Math.floor(x / cell), Math.floor(y / cell)]
    let into: number | undefined
    for (let c = column - 1; c <= column + 1 && into === undefined; c++) {
      for (let r = row - 1; r <= row + 1 && into === undefined; r++) {
        into = cells.get(`${c} ${r}`)?.find((i) => {
          const other = circles[i]
          if (!other) return false
          const apart = radius(place.orders) + radius(other.places[0]?.orders ?? 0)
          return (other.x - x) ** 2 + (other.y - y) ** 2 < Math.max(0.8 * apart, apartAtLeast) ** 2
        })
      }
    }
    const found = into === undefined ? undefined : circles[into]
    if (found) {
      found.places.push(place)
      found.orders += place.orders
      continue
    }
    const key = `${column} ${row}`
    cells.set(key, [...(cells.get(key) ?? []), circles.length])
    circles.push({ places: [place], x, y, orders: place.orders, at: place.at })
  }
  return circles.map((c) => ({
    places: c.places,
    at: c.at,
    orders: c.orders,
    radius: c.places.length > 1 ? Math.max(11, radius(c.orders)) : radius(c.orders),
  }))
}

/** At which side of a circle its figure has room, where no other circle lies. */
function sideOf(
  c: Circle,
  text: string,
  circles: readonly Circle[],
  one: number,
): 'right' | 'left' | undefined {
  const from = c.radius + 5
  const to = from + 6.5 * text.length
  return ([1, -1] as const)
    .filter((way) =>
      circles.every((other) => {
        if (other === c) return true
        const x = way * (other.at[0] - c.at[0]) * one * aspect
        const y = Math.abs(other.at[1] - c.at[1]) * one
        return Math.hypot(Math.max(0, from - x, x - to), Math.max(0, y - 7)) >= other.radius
      }),
    )
    .map((way) => (way === 1 ? ('right' as const) : ('left' as const)))[0]
}

/** The words of a place. */
export function placeWords(p: Place, unit: string): string {
  const figure =
    p.figure === null ? 'no figure' : `${p.text} ${unit}${p.interval ? ` (95%: ${p.interval})` : ''}`
  const route = p.site === undefined ? '' : `${p.site} to `
  return `${route}${p.name}: ${figure}, n ${count(p.n)}, ${counted(p.orders, 'order')}${p.few ? ', too few to be ranked' : ''}`
}

/** What a legend of colours and sizes says; it lies at the bottom of the picture. */
function legendOf(scale: Scale, unit: string, most: number, t: Tokens): GraphicComponentOption[] {
  const steps = [0, 0.125, 0.25, 0.375, 0.5, 0.625, 0.75, 0.875, 1]
  const at = (share: number) =>
    share <= 0.5
      ? scale.low + 2 * share * (scale.middle - scale.low)
      : scale.middle + (2 * share - 1) * (scale.high - scale.middle)
  const text = (x: number) => String(Math.round(x * 100) / 100)
  const word = (left: number, words: string, y = 38) => ({
    type: 'text' as const,
    z: 21,
    left,
    bottom: 58 - y - 12,
    style: { text: words, fill: t.ink, fontSize: 12 },
  })
  return [
    {
      type: 'rect',
      left: 0,
      bottom: 0,
      z: 20,
      silent: true,
      shape: { width: 4000, height: 56 },
      style: { fill: t.surface },
    },
    {
      type: 'rect',
      left: 12,
      bottom: 26,
      z: 21,
      shape: { width: 180, height: 12 },
      style: {
        stroke: t.muted,
        lineWidth: 0.5,
        fill: {
          type: 'linear',
          x: 0,
          y: 0,
          x2: 1,
          y2: 0,
          colorStops: steps.map((share) => ({ offset: share, color: colourOf(at(share), scale, t) })),
        },
      },
    },
    word(12, text(scale.low), 42),
    word(78, `${text(scale.middle)} ${scale.of}`, 42),
    word(186, `${text(scale.high)} ${unit}`, 42),
    {
      type: 'circle',
      z: 21,
      left: 330,
      bottom: 26,
      shape: { r: largest / 2 },
      style: { fill: 'transparent', stroke: t.muted },
    },
    word(362, `${count(Math.round(most / 4))} orders`, 20),
  ]
}

interface Drawn {
  circles: readonly Circle[]
  size: Size
  scale: Scale
  view: View
  unit: string
  /** The outlines: those of the whole world, or finer ones. */
  outlines: string
}

const outlines = (drawn: Drawn, t: Tokens) => ({
  map: drawn.outlines,
  roam: true,
  zoom: drawn.view.zoom,
  center: [...drawn.view.centre],
  scaleLimit: { min: 1, max: mostZoom },
  aspectScale: aspect,
  boundingCoords: [
    [west, north],
    [east, south],
  ] as [number, number][],
  layoutCenter: [drawn.size.width / 2, drawn.size.height / 2] as [number, number],
  layoutSize: span * aspect * perDegree(world, drawn.size),
  selectedMode: false as const,
  itemStyle: { areaColor: t.line, borderColor: t.surface, borderWidth: 0.7 },
  emphasis: { disabled: true },
  label: { show: false },
})

/** The ground of a circle: the colour of its figure; of several places, the colours from their least to their greatest. */
function fillOf(c: Circle, scale: Scale, t: Tokens) {
  const range = rangeOf(c.places)
  if (!range) return t.surface
  const [low, high] = range.map((figure) => colourOf(figure, scale, t)) as [string, string]
  if (low === high) return low
  const stops = [0, 0.2, 0.4, 0.6, 0.8, 1].map((offset) => ({
    offset,
    color: colourOf(range[0] + offset * (range[1] - range[0]), scale, t),
  }))
  return { type: 'linear' as const, x: 0, y: 0, x2: 1, y2: 0, colorStops: stops }
}

/** The colour in the middle of a circle of several places. */
function middleOf(c: Circle, scale: Scale, t: Tokens): string {
  const [low, high] = rangeOf(c.places) ?? [scale.middle, scale.middle]
  return colourOf((low + high) / 2, scale, t)
}

/** mapPicture draws places as circles: their area is the number of orders, their colour the figure. It is pure. */
export function mapPicture(places: readonly Place[], drawn: Drawn, t: Tokens): Picture {
  const { circles, scale, unit } = drawn
  const most = Math.max(1, ...places.map((p) => p.orders))
  const one = perDegree(drawn.view, drawn.size)
  const words = (c: Circle | undefined) => {
    const [first] = c?.places ?? []
    if (!c || !first) return ''
    if (c.places.length === 1) return placeWords(first, unit)
    const range = rangeOf(c.places)
    const figures = range ? `, from ${range[0]} to ${range[1]} ${unit}` : ''
    return `${c.places.length} places, ${counted(c.orders, 'order')}${figures}; zoom in to tell them apart: ${c.places
      .slice(0, 6)
      .map((p) => `${p.name} ${p.text}`)
      .join(', ')}${c.places.length > 6 ? ', …' : ''}`
  }
  return {
    height: mapHeight,
    note: 'A thick edge is above the middle, a dotted one has too few to be ranked. A number counts places that lie on each other, coloured from their least to their greatest figure. Scroll, pinch or press + and − to zoom; drag, or press Shift and an arrow, to move.',
    option: {
      ...frame(t),
      geo: outlines(drawn, t),
      graphic: legendOf(scale, unit, most, t),
      tooltip: { ...tooltip(t), formatter: (hit) => words(circles[[hit].flat()[0]?.dataIndex ?? 0]) },
      series: [
        {
          type: 'scatter',
          coordinateSystem: 'geo',
          cursor: 'pointer',
          emphasis: { itemStyle: { borderColor: t.ink, borderWidth: 3 } },
          labelLayout: { hideOverlap: true },
          data: circles.map((c) => {
            const [place] = c.places
            const several = c.places.length > 1
            const figure = several ? null : (place?.figure ?? null)
            const above = figure !== null && figure > scale.middle
            const beside = !several && c.radius < 15
            const side = beside && c.radius >= 9 ? sideOf(c, place?.text ?? '', circles, one) : undefined
            const inside = several ? rangeOf(c.places) !== undefined : c.radius >= 15 && !place?.few
            return {
              value: [...c.at],
              symbolSize: 2 * c.radius,
              itemStyle: {
                color: fillOf(c, scale, t),
                opacity: several ? 0.9 : 0.95,
                borderColor: several ? t.muted : t.ink,
                borderWidth: above && !place?.few ? 2.5 : 1,
                borderType: (place?.few && !several ? 'dotted' : 'solid') as 'dotted' | 'solid',
              },
              label: {
                show: several || (figure !== null && (!beside || side !== undefined)),
                formatter: several ? String(c.places.length) : (place?.text ?? ''),
                color: inside
                  ? inkOn(several ? middleOf(c, scale, t) : colourOf(figure ?? scale.middle, scale, t))
                  : t.ink,
                fontSize: 11,
                ...(side ? { position: side } : {}),
              },
            }
          }),
        },
      ],
    } as EChartsOption,
    points: circles.map((c) => ({
      words: words(c),
      to: c.places.length === 1 ? c.places[0]?.to : undefined,
    })),
  }
}

/** routesPicture draws a line from each site to each of its places. It is pure. */
export function routesPicture(part: Part, places: readonly Place[], drawn: Drawn, t: Tokens): Picture {
  const table = tableOf(part, 'sites')
  const sites = new Map(
    table.rows.map((row) => [
      cellOf(table, row, 'site').text,
      [numberOf(table, row, 'longitude') ?? 0, numberOf(table, row, 'latitude') ?? 0],
    ]),
  )
  const { scale, unit } = drawn
  const routes = places.filter((p) => p.at && sites.has(p.site ?? ''))
  const most = Math.max(1, ...routes.map((p) => p.orders))
  const points: Point[] = routes.map((p, data) => ({ words: placeWords(p, unit), to: p.to, series: 0, data }))
  return {
    height: mapHeight,
    note: 'A route is as wide as it has orders.',
    option: {
      ...frame(t),
      geo: outlines(drawn, t),
      graphic: legendOf(scale, unit, most, t),
      tooltip: { ...tooltip(t), formatter: (hit) => points[[hit].flat()[0]?.dataIndex ?? 0]?.words ?? '' },
      series: [
        {
          type: 'lines',
          coordinateSystem: 'geo',
          cursor: 'pointer',
          emphasis: { lineStyle: { color: t.ink } },
          data: routes.map((p) => ({
            coords: [sites.get(p.site ?? '') ?? [], [...(p.at ?? [])]],
            lineStyle: {
              color: p.figure === null || p.few ? t.muted : colourOf(p.figure, scale, t),
              width: Math.max(1.5, 8 * Math.sqrt(p.orders / most)),
              type: (p.few ? 'dotted' : 'solid') as 'dotted' | 'solid',
              curveness: 0.25,
              opacity: 0.95,
            },
          })),
        },
        {
          type: 'lines', // the edges of the others, so that one of the middle is seen on the land
          coordinateSystem: 'geo',
          silent: true,
          z: 1,
          lineStyle: { color: t.ink, opacity: 0.55 },
          data: routes.map((p) => ({
            coords: [sites.get(p.site ?? '') ?? [], [...(p.at ?? [])]],
            lineStyle: { width: Math.max(1.5, 8 * Math.sqrt(p.orders / most)) + 2, curveness: 0.25 },
          })),
        },
        {
          type: 'scatter',
          coordinateSystem: 'geo',
          silent: true,
          symbol: 'rect',
          symbolSize: 9,
          itemStyle: { color: t.ink },
          label: { show: true, position: 'left', color: t.ink, fontWeight: 600, formatter: '{b}' },
          data: [...sites].map(([name, at]) => ({ name, value: at })),
        },
      ],
    } as EChartsOption,
    points,
  }
}

/** Other names of countries than those of the outlines. */
const otherNames: Readonly<Record<string, string>> = {
  usa: 'United States of America',
  us: 'United States of America',
  'united states': 'United States of America',
  uk: 'United Kingdom',
  gb: 'United Kingdom',
  'great britain': 'United Kingdom',
  'czech republic': 'Czechia',
  uae: 'United Arab Emirates',
}

/** The country of the outlines that a name means; undefined where none does. */
export function countryNamed(name: string, countries: readonly string[]): string | undefined {
  const wanted = otherNames[name.trim().toLowerCase()] ?? name.trim()
  return countries.find((c) => c.toLowerCase() === wanted.toLowerCase())
}

/** shadedPicture shades countries by their figure. It is pure. */
export function shadedPicture(
  places: readonly Place[],
  countries: readonly string[],
  drawn: Drawn,
  t: Tokens,
): Picture {
  const { scale, unit } = drawn
  const shown = places.flatMap((p) => {
    const country = countryNamed(p.name, countries)
    return country ? [{ place: p, country }] : []
  })
  const off = places.filter((p) => !countryNamed(p.name, countries)).map((p) => p.name)
  return {
    height: mapHeight,
    note: off.length > 0 ? `Not among the outlines: ${off.join(', ')}; the table has them.` : undefined,
    option: {
      ...frame(t),
      graphic: legendOf(scale, unit, Math.max(1, ...places.map((p) => p.orders)), t),
      tooltip: {
        ...tooltip(t),
        formatter: (hit) => {
          const at = shown[[hit].flat()[0]?.dataIndex ?? -1]
          return at ? placeWords(at.place, unit) : ''
        },
      },
      series: [
        {
          ...outlines(drawn, t),
          type: 'map',
          cursor: 'pointer',
          data: shown.map(({ place, country }) => ({
            name: country,
            value: place.figure ?? undefined,
            itemStyle: {
              areaColor: place.figure === null || place.few ? t.surface : colourOf(place.figure, scale, t),
              borderColor: t.ink,
              borderWidth: (place.figure ?? scale.middle) > scale.middle ? 1.5 : 0.7,
            },
          })),
        },
      ],
    } as EChartsOption,
    points: shown.map(({ place }, data) => ({
      words: placeWords(place, unit),
      to: place.to,
      series: 0,
      data,
    })),
  }
}

/** The number of bars that one can read. */
const mostBars = 40

/** barsPicture draws the ranked places as bars, the longest first, in the colours of the map. It is pure. */
export function barsPicture(places: readonly Place[], drawn: Drawn, t: Tokens): Picture {
  const { scale, unit } = drawn
  const bars = places.filter((p) => p.figure !== null && !p.few).slice(0, mostBars)
  const name = (p: Place) => (p.site === undefined ? p.name : `${p.site} to ${p.name}`)
  return {
    height: 60 + bars.length * 22,
    note:
      places.length > bars.length
        ? `The first ${bars.length} of ${counted(places.length, 'row')}; the table has all.`
        : undefined,
    option: {
      ...frame(t),
      grid: { left: 16, right: 150, top: 8, bottom: 40, containLabel: true },
      xAxis: { ...valueAxis(unit, t, 26), min: 0 },
      yAxis: {
        ...nameAxis(bars.map(name), t),
        inverse: true,
        axisLabel: { color: t.ink, width: 200, overflow: 'truncate' },
      },
      tooltip: {
        ...tooltip(t),
        formatter: (hit) => placeWords(bars[[hit].flat()[0]?.dataIndex ?? 0] as Place, unit),
      },
      series: [
        {
          type: 'bar',
          cursor: 'pointer',
          barWidth: '62%',
          label: {
            show: true,
            position: 'right',
            color: t.ink,
            formatter: (p) => `${bars[p.dataIndex]?.text ?? ''}  n ${count(bars[p.dataIndex]?.n ?? 0)}`,
          },
          markLine: {
            silent: true,
            symbol: 'none',
            lineStyle: { color: t.ink, type: 'dashed' },
            label: { formatter: scale.of, color: t.ink },
            data: [{ xAxis: scale.middle }],
          },
          data: bars.map((p) => ({
            value: p.figure ?? 0,
            itemStyle: {
              color: colourOf(p.figure ?? 0, scale, t),
              borderColor: t.ink,
              borderWidth: (p.figure ?? 0) > scale.middle ? 1.5 : 0.5,
            },
          })),
        },
      ],
    },
    points: bars.map((p) => ({ words: placeWords(p, unit), to: p.to })),
  }
}
