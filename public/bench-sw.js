// Opens the bench without the server: its page as it was last answered, and the hashed files that it needs. Nothing
// else is kept or answered from here.
const KEPT = "trialmoor-bench-1";
const BENCH = /^\/studies\/[^/]+\/bench$/;
const HASHED = /^\/_next\/static\//;

addEventListener("install", () => skipWaiting());
addEventListener("activate", (event) => event.waitUntil(clients.claim()));

// The page loaded its files before this worker stood: it names them, so that they are kept too.
addEventListener("message", (event) => {
  const keep = async () => {
    const cache = await caches.open(KEPT);
    for (const url of event.data.files) if (!(await cache.match(url))) await cache.add(url);
    await cache.add(event.data.page);
    event.source.postMessage("kept");
  };
  event.waitUntil(keep());
});

addEventListener("fetch", (event) => {
  const { request } = event;
  const { origin, pathname } = new URL(request.url);
  if (request.method !== "GET" || origin !== location.origin) return;
  if (HASHED.test(pathname))
    event.respondWith(
      caches.match(request).then(
        (kept) =>
          kept ??
          fetch(request).then(async (answer) => {
            if (answer.ok) (await caches.open(KEPT)).put(request, answer.clone());
            return answer;
          }),
      ),
    );
  else if (request.mode === "navigate" && BENCH.test(pathname))
    event.respondWith(
      fetch(request)
        .then(async (answer) => {
          if (answer.ok) (await caches.open(KEPT)).put(pathname, answer.clone());
          return answer;
        })
        .catch(async (error) => {
          const kept = await caches.match(pathname);
          if (kept) return kept;
          throw error;
        }),
    );
});
