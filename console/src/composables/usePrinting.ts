import { onScopeDispose, readonly, ref } from 'vue'

/** usePrinting says whether the page is being printed: then tables have all their rows. */
export function usePrinting() {
  const printing = ref(false)
  const begin = () => (printing.value = true)
  const end = () => (printing.value = false)
  addEventListener('beforeprint', begin)
  addEventListener('afterprint', end)
  onScopeDispose(() => {
    removeEventListener('beforeprint', begin)
    removeEventListener('afterprint', end)
  })
  return readonly(printing)
}
