import type {
  EChartsOption,
  GeoComponentOption,
  GraphicComponentOption,
  GridComponentOption,
  LegendComponentOption,
} from 'echarts'
import type { Tokens } from '@/theme'

/** A map below the title, in the middle of the paper. */
function placed<Map extends { layoutCenter?: (number | string)[] }>(map: Map, width: number): Map {
  return { ...map, layoutCenter: [width / 2, Number(map.layoutCenter?.[1] ?? 0) + 84] }
}

/**
 * titled is a picture to take away: with its sentence above and what it counts below, so that it says by
 * itself what it shows. The width is in pixels. It is pure.
 */
export function titled(
  option: EChartsOption,
  sentence: string,
  below: readonly string[],
  width: number,
  t: Tokens,
): EChartsOption {
  const margin = 24
  const fit = { width: width - 2 * margin, overflow: 'break' } as const
  const lower = (grid: GridComponentOption): GridComponentOption => ({
    ...grid,
    top: Number(grid.top) + 72,
    ...(grid.bottom === undefined ? {} : { bottom: Number(grid.bottom) + 24 + 20 * below.length }),
  })
  const grids = [option.grid as GridComponentOption | GridComponentOption[] | undefined]
    .flat()
    .flatMap((grid) => (grid ? [lower(grid)] : []))
  const graphics = [option.graphic as GraphicComponentOption | GraphicComponentOption[] | undefined]
    .flat()
    .flatMap((g) =>
      g ? [{ ...g, bottom: Number((g as { bottom?: number }).bottom ?? 0) + 20 + 20 * below.length }] : [],
    )
  const geo = option.geo as GeoComponentOption | undefined
  const legend = option.legend as LegendComponentOption | undefined
  return {
    ...option,
    backgroundColor: t.surface,
    ...(grids.length > 0 ? { grid: grids } : {}),
    ...(graphics.length > 0 ? { graphic: graphics as EChartsOption['graphic'] } : {}),
    ...(geo ? { geo: placed(geo, width) } : {}),
    ...(option.series
      ? { series: [option.series].flat().map((s) => (s.type === 'map' ? placed(s, width) : s)) }
      : {}),
    ...(legend ? { legend: { ...legend, top: 72 } } : {}),
    title: [
      {
        text: sentence,
        left: margin,
        top: 16,
        textStyle: { ...fit, fontSize: 18, fontWeight: 600, lineHeight: 25, color: t.ink },
      },
      {
        text: below.join('\n'),
        left: margin,
        bottom: 10,
        textStyle: { ...fit, fontSize: 13, fontWeight: 400, lineHeight: 20, color: t.muted },
      },
    ],
  }
}
