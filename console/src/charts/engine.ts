import { BarChart, BoxplotChart, LineChart } from 'echarts/charts'
import { GridComponent, LegendPlainComponent, MarkLineComponent, TooltipComponent } from 'echarts/components'
import { init, use } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import VChart from 'vue-echarts'

// What draws pictures. It is large, and fetched when a page has one.
use([
  BarChart,
  BoxplotChart,
  LineChart,
  GridComponent,
  LegendPlainComponent,
  MarkLineComponent,
  TooltipComponent,
  SVGRenderer,
])

export { init, VChart }
