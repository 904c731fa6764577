// Keeps the application itself in this browser, so that it opens without a network. What people make is kept by Dexie, not here.
const ANY_SHOT = '/shot/any';

async function keepBuild() {
  const { build, files } = await (await fetch('/api/offline', { cache: 'no-store' })).json();
  const cache = await caches.open(`ostracon ${build}`);
  // All or nothing is kept of a build: where its page is, everything is.
  if (await cache.match(ANY_SHOT)) return;
  await cache.addAll(['/', ANY_SHOT, ...files]);
  for (const name of await caches.keys()) {
    if (name.startsWith('ostracon ') && name !== `ostracon ${build}`) await caches.delete(name);
  }
}

self.addEventListener('install', (event) => {
  event.waitUntil(keepBuild().then(() => self.skipWaiting()));
});

self.addEventListener('activate', (event) => event.waitUntil(self.clients.claim()));

/** A page as the server has it now; without one, as it was kept. All shots are one page, which looks at its address. */
async function page(request) {
  try {
    const response = await fetch(request);
    // A new build brings other files: they are kept as soon as its pages are seen.
    keepBuild().catch(() => undefined);
    return response;
  } catch {
    const { pathname } = new URL(request.url);
    return (await caches.match(pathname.startsWith('/shot/') ? ANY_SHOT : '/')) ?? Response.error();
  }
}

/**
 * A file of the build, as it was kept. A worker is told what to load behind the # of its address: a response that names no address
 * of its own leaves it that.
 */
async function file(request) {
  const { body, status, headers } = (await caches.match(request, { ignoreVary: true })) ?? (await fetch(request));
  return new Response(body, { status, headers });
}

self.addEventListener('fetch', (event) => {
  const { request } = event;
  const url = new URL(request.url);
  if (request.method !== 'GET' || url.origin !== self.location.origin) return;
  if (request.mode === 'navigate') event.respondWith(page(request));
  // Files of a build never change: their names are made of what is in them.
  else if (url.pathname.startsWith('/_next/static/')) event.respondWith(file(request));
});
