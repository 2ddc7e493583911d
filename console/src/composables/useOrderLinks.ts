import { useRouter } from 'vue-router'
import { ordersBehind } from '@/api/document'

/**
 * useOrderLinks makes the links of a table to the orders behind its numbers. They are plain ones, which whoever holds them lets
 * follow: a component for each of thousands would take longer than all else of the table.
 */
export function useOrderLinks(columns: () => string | undefined) {
  const router = useRouter()
  const hrefOf = (behind: string | undefined) => router.resolve(ordersBehind(behind, columns()) ?? {}).href
  function follow(click: MouseEvent) {
    const href = (click.target as Element).closest('a')?.getAttribute('href')
    if (!href || click.button || click.metaKey || click.ctrlKey || click.shiftKey || click.altKey) return
    click.preventDefault()
    void router.push(href)
  }
  return { hrefOf, follow }
}
