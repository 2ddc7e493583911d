import { TitleComponent } from 'echarts/components'
import { use } from 'echarts/core'
import { CanvasRenderer } from 'echarts/renderers'
import { init } from './engine'

// Draws pictures for files: under their sentence, as pixels too.
use([TitleComponent, CanvasRenderer])

export { init }
