import { expect, test } from 'vitest'
import {
  colourOf,
  countryNamed,
  gather,
  mapPicture,
  type Place,
  scaleOf,
  viewOf,
  world,
} from './charts/places'
import { light } from './theme'

const place = (
  name: string,
  orders: number,
  figure: number | null,
  at?: readonly [number, number],
): Place => ({
  name,
  orders,
  n: orders,
  figure,
  text: String(figure),
  interval: '',
  few: orders < 10,
  ...(at ? { at } : {}),
})
const size = { width: 1000, height: 400 }

test('high is warm, and the middle is what was typed or all orders', () => {
  const places = [place('A', 20, 2), place('B', 30, 10), place('few', 3, 90), place('none', 0, null)]
  const scale = scaleOf(places, 5)
  expect(scale).toEqual({ low: 2, middle: 5, high: 10, of: 'all orders' })
  expect(scaleOf(places, 5, 8)).toEqual({ low: 2, middle: 8, high: 10, of: 'the target' })
  expect(colourOf(2, scale, light)).toBe(light.teal)
  expect(colourOf(5, scale, light)).toBe(light.background)
  expect(colourOf(7.5, scale, light)).toBe(light.amber)
  expect(colourOf(10, scale, light)).toBe(light.bad)
  expect(colourOf(90, scale, light)).toBe(light.bad)
  expect(colourOf(5, scaleOf([], 5), light)).toBe(light.background)
})

test('places that lie on each other are gathered until one zooms in, and none is lost', () => {
  const places = Array.from({ length: 500 }, (_, i) =>
    place(`P${i}`, 1 + ((i * 7) % 60), i, [-9 + (i % 25) * 0.05, 52 + Math.floor(i / 25) * 0.05]),
  )
  let before = 0
  for (const zoom of [1, 5, 25, 100, 400]) {
    const circles = gather(places, { zoom, centre: [-9, 52] }, size)
    expect(circles.reduce((sum, c) => sum + c.orders, 0)).toBe(places.reduce((sum, p) => sum + p.orders, 0))
    expect(circles.length).toBeGreaterThanOrEqual(before)
    before = circles.length
    // Whatever the order of the rows and the part of the world that is looked at.
    const names = (of: typeof circles) =>
      of
        .map((c) =>
          c.places
            .map((p) => p.name)
            .sort()
            .join(),
        )
        .sort()
    expect(names(gather([...places].reverse(), { zoom, centre: [100, 0] }, size))).toEqual(names(circles))
  }
  expect(before).toBe(places.length)
  expect(gather([place('nowhere', 9, 1)], world, size)).toEqual([])
  const [large, small] = gather([place('A', 100, 1, [0, 0]), place('B', 25, 1, [90, 40])], world, size)
  expect((large?.radius ?? 0) / (small?.radius ?? 1)).toBeCloseTo(2) // the area is the number of orders
})

test('all places are seen at first', () => {
  expect(viewOf([], size)).toEqual(world)
  expect(viewOf([place('A', 1, 1, [-120, 50]), place('B', 1, 1, [175, -40])], size).zoom).toBeCloseTo(1, 0)
  const near = viewOf([place('A', 1, 1, [-9, 53]), place('B', 1, 1, [-8, 52])], size)
  expect(near.centre).toEqual([-8.5, 52.5])
  expect(near.zoom).toBeGreaterThan(50)
})

test('a figure stands at the side of a small circle where no other circle lies', () => {
  const side = (...others: (readonly [number, number])[]) => {
    const places = [
      place('large', 400, 9, [90, 40]),
      place('small', 60, 3, [0, 0]),
      ...others.map((at) => place('other', 60, 4, at)),
    ]
    const circles = gather(places, world, size)
    const drawn = { circles, size, scale: scaleOf(places, 5), view: world, unit: 'days', outlines: 'world' }
    const { series } = mapPicture(places, drawn, light).option as {
      series: [{ data: { label: { show: boolean; formatter: string; position?: string } }[] }]
    }
    const label = series[0].data.find((d) => d.label.formatter === '3')?.label
    return label?.show ? label.position : 'none'
  }
  expect(side()).toBe('right')
  expect(side([10, 10])).toBe('right') // which is above it
  expect(side([10, 0])).toBe('left')
  expect(side([10, 0], [-11, 1])).toBe('none')
})

test('countries have the names of the outlines, or others that people use', () => {
  const countries = ['Oman', 'United States of America', 'Ireland']
  expect(countryNamed('ireland ', countries)).toBe('Ireland')
  expect(countryNamed('USA', countries)).toBe('United States of America')
  expect(countryNamed('Atlantis', countries)).toBeUndefined()
})
