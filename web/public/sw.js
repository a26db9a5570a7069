// The shell of the application without a network: the page and its scripts, styles and fonts, as they came last. What the
// server knows is never kept here: an answer that may be old is worse than none.
const shell = 'freshanvil-shell'

self.addEventListener('install', (event) => {
  event.waitUntil(keep().then(() => self.skipWaiting()))
})
self.addEventListener('activate', (event) => event.waitUntil(self.clients.claim()))

// the page, and what it names
async function keep() {
  const cache = await caches.open(shell)
  const page = await fetch('/', { cache: 'no-store' })
  if (!page.ok) return
  const text = await page.clone().text()
  await cache.put('/', page)
  const names = [...text.matchAll(/(?:src|href)="(\/[^"]+)"/g)].map((m) => m[1])
  await cache.addAll(
    names.filter((n) => n.startsWith('/assets/') || n.endsWith('.svg') || n.endsWith('.webmanifest')),
  )
}

self.addEventListener('fetch', (event) => {
  const { request } = event
  const url = new URL(request.url)
  if (request.method !== 'GET' || url.origin !== location.origin || url.pathname.startsWith('/api/')) return
  if (request.mode === 'navigate') event.respondWith(page(request))
  else if (url.pathname.startsWith('/assets/')) event.respondWith(asset(request))
})

// the newest page there is; without a network the last one, whatever its address: it finds its way itself
async function page(request) {
  const cache = await caches.open(shell)
  try {
    const fresh = await fetch(request)
    if (fresh.ok && (await isOurs(fresh.clone()))) await cache.put('/', fresh.clone())
    return fresh
  } catch (error) {
    const kept = await cache.match('/')
    if (kept) return kept
    throw error
  }
}

// only the application's own page is kept: whatever else opens in a tab is not what is shown without a network
async function isOurs(answer) {
  if (!answer.headers.get('Content-Type')?.startsWith('text/html')) return false
  return (await answer.text()).includes('<div id="app">')
}

// what carries a hash in its name never changes; what the newest page no longer names is let go when there is much of it
const mostAssets = 200
async function asset(request) {
  const cache = await caches.open(shell)
  const kept = await cache.match(request)
  if (kept) return kept
  const fresh = await fetch(request)
  if (fresh.ok) {
    const all = await cache.keys()
    if (all.length > mostAssets) await Promise.all(all.slice(0, 50).map((old) => cache.delete(old)))
    await cache.put(request, fresh.clone())
  }
  return fresh
}
