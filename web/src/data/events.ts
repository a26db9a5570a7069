// What others press, heard as it happens. One stream a browser, shared by its tabs: the tab that holds the lock listens
// and tells the others; when it is closed the next one does. A browser has few connections to a server, and a stream
// takes one for as long as it is open.

/** Told of a run that was pressed; without one, of anything: look again. */
type Told = (run?: string) => void

const told = new Set<Told>()
const name = 'freshanvil.runs'
let end: (() => void) | undefined

function tell(run?: string) {
  for (const f of told) f(run)
}

/** Listens. Gives what ends it. */
export function follow(f: Told): () => void {
  told.add(f)
  end ??= begin()
  return () => {
    told.delete(f)
    if (told.size > 0) return
    end?.()
    end = undefined
  }
}

function begin(): () => void {
  const others = new BroadcastChannel(name)
  others.onmessage = (e: MessageEvent<string>) => tell(e.data || undefined)
  const over = new AbortController()
  const listen = (closed: () => void) => {
    const stream = new EventSource('/api/events')
    const pass = (run: string) => {
      tell(run || undefined)
      others.postMessage(run)
    }
    stream.addEventListener('changed', (e: MessageEvent<string>) => pass(e.data))
    stream.addEventListener('open', () => pass('')) // after a break, too
    over.signal.addEventListener('abort', () => {
      stream.close()
      closed()
    })
  }
  // without locks, as where a page did not come over TLS, each tab listens for itself
  if ('locks' in navigator)
    void navigator.locks
      .request(name, { signal: over.signal }, () => new Promise<void>((closed) => listen(closed)))
      .catch(() => undefined)
  else listen(() => undefined)
  return () => {
    over.abort()
    others.close()
  }
}
