// Keeps what a run needs on the tablet: the page of the run, its photos, styles and scripts.

const CACHE = "eldrim-bay-1";
const RUN = /^\/bay\/runs\/[0-9a-f-]{36}$/;
const LIST = "/bay";

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

// A page that came past the worker, as a hard reload or one that began before it, asks to be taken.
self.addEventListener("message", (event) => event.waitUntil(self.clients.claim()));

// The newest there is; without the link, what was kept.
async function newest(request, key) {
  const cache = await caches.open(CACHE);
  try {
    const answer = await fetch(request);
    if (answer.ok && !answer.redirected) await cache.put(key, answer.clone());
    return answer;
  } catch {
    return (await cache.match(key)) || Response.error();
  }
}

// Wherever else one wanted to go without the link: the list of what is kept here.
async function list() {
  return (await (await caches.open(CACHE)).match(LIST)) || Response.error();
}

// What never changes under its name.
async function kept(request) {
  const cache = await caches.open(CACHE);
  const had = await cache.match(request);
  if (had) return had;
  const answer = await fetch(request);
  if (answer.ok && !answer.redirected) await cache.put(request, answer.clone());
  return answer;
}

self.addEventListener("fetch", (event) => {
  const address = new URL(event.request.url);
  if (event.request.method !== "GET" || address.origin !== self.location.origin) return;
  if (RUN.test(address.pathname) || (address.pathname === LIST && !address.search))
    event.respondWith(newest(event.request, address.pathname));
  else if (/^\/(images|static|bay\/cards)\//.test(address.pathname)) event.respondWith(kept(event.request));
  else if (event.request.mode === "navigate") event.respondWith(fetch(event.request).catch(() => list()));
});
