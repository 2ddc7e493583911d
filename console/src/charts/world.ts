import { LinesChart, MapChart, ScatterChart } from 'echarts/charts'
import { GeoComponent, GraphicComponent } from 'echarts/components'
import { registerMap, use } from 'echarts/core'
import { feature } from 'topojson-client'
import type { GeometryCollection, Topology } from 'topojson-specification'

// The outlines of the countries of the world, from Natural Earth as the package world-atlas has them, and what draws on them. It is
// large, and fetched when a page shows a map.
use([GeoComponent, GraphicComponent, LinesChart, MapChart, ScatterChart])

type Ring = [number, number][]

/** A ring that crosses the 180th meridian goes on beyond it, instead of right across the map. */
function joined(ring: Ring): Ring {
  const crosses = ring.some(([east], i) => Math.abs(east - (ring[i - 1]?.[0] ?? east)) > 180)
  return crosses ? ring.map(([east, north]) => [east < 0 ? east + 360 : east, north]) : ring
}

type World = Topology<{ countries: GeometryCollection<{ name: string }> }>

function register(name: string, world: World) {
  const all = feature(world, world.objects.countries)
  // No order goes to Antarctica, which would take a third of the picture.
  const features = all.features.filter((f) => f.properties.name !== 'Antarctica')
  for (const { geometry } of features) {
    if (geometry.type === 'Polygon') geometry.coordinates = (geometry.coordinates as Ring[]).map(joined)
    else if (geometry.type === 'MultiPolygon')
      geometry.coordinates = (geometry.coordinates as Ring[][]).map((polygon) => polygon.map(joined))
  }
  registerMap(name, { ...all, features } as unknown as Parameters<typeof registerMap>[1])
  return features.map((f) => f.properties.name)
}

/** Registers the outlines, and gives the names of the countries. */
export async function loadWorld(): Promise<readonly string[]> {
  return register('world', (await import('world-atlas/countries-110m.json')).default as unknown as World)
}

/** Registers finer outlines, for a map that is zoomed in. */
export async function loadFinerWorld(): Promise<void> {
  register('finer world', (await import('world-atlas/countries-50m.json')).default as unknown as World)
}
