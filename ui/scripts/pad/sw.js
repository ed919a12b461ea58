// Keeps the marking pad on the device, so that it opens where no network reaches. What is
// kept stands before this text, put there by the server (self.KEEP, self.VERSION); only
// that is answered from the device, and everything else goes to the network as ever.

/** @type {any} */
const worker = self;
const shelf = `pad-${worker.VERSION}`;

worker.addEventListener("install", (/** @type {any} */ e) => {
  e.waitUntil(caches.open(shelf).then((c) => c.addAll(worker.KEEP)));
});

// A new version waits until the pad says that its day is over.
worker.addEventListener("message", (/** @type {any} */ e) => {
  if (e.data === "take over") worker.skipWaiting();
});

worker.addEventListener("activate", (/** @type {any} */ e) => {
  e.waitUntil(
    caches
      .keys()
      .then((names) =>
        Promise.all(names.filter((n) => n.startsWith("pad-") && n !== shelf).map((n) => caches.delete(n))),
      )
      .then(() => worker.clients.claim()),
  );
});

worker.addEventListener("fetch", (/** @type {any} */ e) => {
  const url = new URL(e.request.url);
  if (e.request.method !== "GET" || url.origin !== location.origin) return;
  const isPad = url.pathname === "/pad";
  if (!isPad && !worker.KEEP.includes(url.pathname + url.search)) return;
  // The pad's page is answered from the device first: it holds nobody's data, and a new
  // version of it comes with a new worker.
  e.respondWith(caches.open(shelf).then(async (c) => (await c.match(isPad ? "/pad" : e.request)) ?? fetch(e.request)));
});

export {};
