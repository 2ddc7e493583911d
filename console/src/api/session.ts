// What this browser shows the service. It lies in the storage of this origin: a server on another port of the machine, which
// would be shown a cookie, cannot read it.
const stored = 'prairie-dusk-session'

/** The headers by which the service knows this browser. */
export function credentials(): Record<string, string> {
  const session = localStorage.getItem(stored)
  return session ? { Authorization: `Bearer ${session}` } : {}
}

/** Exchanges the key in the address that lets a browser in, which works once, and takes it out of the address. */
export async function enter(): Promise<void> {
  if (location.pathname !== '/enter') return
  const key = location.hash.slice(1)
  history.replaceState(null, '', '/')
  const response = await fetch('/api/v1/access/session', {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ key }),
  }).catch(() => undefined)
  if (response?.ok) localStorage.setItem(stored, ((await response.json()) as { session: string }).session)
}

/** Logs this browser out; it is locked then, whether or not the service hears of it. */
export async function leave(): Promise<void> {
  const headers = credentials()
  localStorage.removeItem(stored)
  await fetch('/api/v1/access/session', { method: 'DELETE', headers }).catch(() => undefined)
  location.assign('/')
}
