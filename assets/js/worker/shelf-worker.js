// Without a connection the list or the day that was opened last is answered from what the page kept. With one, everything is
// asked anew.
const KEPT = "good-crate-list";

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));
self.addEventListener("fetch", (event) => {
  const { request } = event;
  const isPage = request.mode === "navigate";
  if (request.method !== "GET" || !(isPage || new URL(request.url).pathname.startsWith("/static/"))) return;
  event.respondWith(
    fetch(request).catch(async () => {
      const kept = await caches.open(KEPT);
      const exactly = await kept.match(request, { ignoreVary: true });
      return exactly ?? (await kept.match(request, { ignoreVary: true, ignoreSearch: isPage })) ?? Response.error();
    }),
  );
});
