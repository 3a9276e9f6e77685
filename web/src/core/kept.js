// As this service worker takes over, no page of the version before is left: what only that one began from goes.
self.addEventListener("activate", (event) => {
  const kept = new Set(KEPT);
  event.waitUntil(
    caches.open("core").then(async (store) => {
      for (const request of await store.keys())
        if (!kept.has(new URL(request.url).pathname)) await store.delete(request);
    }),
  );
});
