import { computed } from 'vue'
import { useTheme } from 'vuetify'
import { dark, light } from '@/theme'

/** useTokens gives the colours of the theme that is shown, for pictures. */
export function useTokens() {
  const theme = useTheme()
  return computed(() => (theme.global.current.value.dark ? dark : light))
}
