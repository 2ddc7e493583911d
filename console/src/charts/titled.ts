import type { EChartsOption, GridComponentOption, LegendComponentOption } from 'echarts'
import type { Tokens } from '@/theme'

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
  const grids = [option.grid as GridComponentOption | GridComponentOption[]].flat().map(lower)
  const legend = option.legend as LegendComponentOption | undefined
  return {
    ...option,
    backgroundColor: t.surface,
    grid: grids,
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
