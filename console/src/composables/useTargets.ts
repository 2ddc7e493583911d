import { ref } from 'vue'

const stored = 'targets'

/** useTargets has the targets of the overview's figures, by their codes: each browser's own. */
export function useTargets() {
  const targets = ref<Partial<Record<string, number>>>(JSON.parse(localStorage.getItem(stored) ?? '{}'))
  function set(code: string, target: number | undefined) {
    targets.value = { ...targets.value, [code]: target }
    localStorage.setItem(stored, JSON.stringify(targets.value))
  }
  return { targets, set }
}
