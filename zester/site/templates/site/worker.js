// Keeps bench and packing table for when there is no line: their pages as they were last seen, and what draws them.
"use strict";

const PAGES = "zester-pages";
const ASSETS = "zester-assets";
const STATIC = "{{ static_url }}";
// Pages that go on without a line: what is ticked there waits and is sent later.
const KEPT = /^\/classes\/\d+\/(?:cut\/[\w-]+\/bench|pack(?:\/(?:bags|kit|bag)\/[\w-]+)?)\/$/;
const MOST = 60;
// What was kept ten minutes ago is not asked for again.
const FRESH = 600000;

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => {
  event.waitUntil(Promise.all([self.clients.claim(), self.registration.navigationPreload?.enable()]));
});

const keep = async (url, answer) => {
  if (!answer.ok || answer.redirected) return;
  const cache = await caches.open(PAGES);
  const headers = new Headers(answer.headers);
  headers.set("X-Kept-At", String(Date.now()));
  await cache.put(url, new Response(await answer.blob(), { headers }));
  const all = await cache.keys();
  await Promise.all(all.slice(0, Math.max(0, all.length - MOST)).map((each) => cache.delete(each)));
};

// The page says when it was kept.
const shown = async (answer) => {
  const text = await answer.text();
  const body = text.replace("<body ", `<body data-kept="${answer.headers.get("X-Kept-At")}" `);
  return new Response(body, { headers: answer.headers });
};

const titleOf = (text) => /<title>([^<]*)<\/title>/.exec(text)?.[1] ?? "";
const whatThereIs = async () => {
  const cache = await caches.open(PAGES);
  const links = await Promise.all(
    (await cache.keys()).map(async (each) => `<li><a href="${new URL(each.url).pathname}">${titleOf(await (await cache.match(each)).text())}</a></li>`)
  );
  const there = links.length
    ? `<p>These go on without one; what you tick is kept here and sent later:</p><ul>${links.join("")}</ul>`
    : "<p>Bench and packing table go on without one, where they were opened on this device before.</p>";
  const words = `<!DOCTYPE html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
    <title>No line · Zester</title><link rel="stylesheet" href="{{ style }}"><body><main><h1>No line</h1>${there}
    <p><a href="">Try again</a></p></main></body></html>`;
  return new Response(words, { status: 503, headers: { "Content-Type": "text/html; charset=utf-8" } });
};

const page = async (event) => {
  const { request } = event;
  const { pathname } = new URL(request.url);
  try {
    const answer = (await event.preloadResponse) || (await fetch(request));
    if (KEPT.test(pathname)) event.waitUntil(keep(pathname, answer.clone()));
    return answer;
  } catch {
    const there = await (await caches.open(PAGES)).match(pathname, { ignoreVary: true });
    return there ? shown(there) : whatThereIs();
  }
};

const asset = async (request) => {
  try {
    return await fetch(request);
  } catch (error) {
    const there = await caches.match(request, { cacheName: ASSETS });
    if (there) return there;
    throw error;
  }
};

self.addEventListener("fetch", (event) => {
  const { request } = event;
  const { origin, pathname } = new URL(request.url);
  if (request.method !== "GET" || origin !== self.location.origin) return;
  if (request.mode === "navigate") event.respondWith(page(event));
  else if (pathname.startsWith(STATIC)) event.respondWith(asset(request));
});

// A page tells what it is drawn with, and which pages it leads to.
self.addEventListener("message", (event) => {
  const { assets = [], pages = [] } = event.data ?? {};
  const each = async () => {
    const cache = await caches.open(ASSETS);
    await Promise.allSettled(assets.map((url) => cache.add(url)));
    for (const url of pages.filter((one) => KEPT.test(one))) {
      const there = await caches.match(url, { cacheName: PAGES, ignoreVary: true });
      if (there && Date.now() - Number(there.headers.get("X-Kept-At")) < FRESH) continue;
      try {
        await keep(url, await fetch(url));
      } catch {
        return;
      }
    }
  };
  event.waitUntil(each());
});
