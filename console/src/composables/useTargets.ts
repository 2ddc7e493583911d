import { ref } from 'vue'

const stored = 'targets'

/** useTargets has the targets of the overview's figures, by their codes: each browser's own. */
export function useTargets() {
  const targets = ref<Record<string, number>>(JSON.parse(localStorage.getItem(stored) ?? '{}'))
  function set(code: string, text: string) {
    const value = Number(text.trim().replace('%', ''))
    const others = Object.entries(targets.value).filter(([name]) => name !== code)
    const own = text.trim() === '' || Number.isNaN(value) ? [] : [[code, value] as const]
    targets.value = Object.fromEntries([...others, ...own])
    localStorage.setItem(stored, JSON.stringify(targets.value))
  }
  return { targets, set }
}
