/* Set up and Weld without the network: their last pages and files are cached, and shown if the
   server does not answer. */
// The page that registered it gives the addresses of the styles and of live data.
const TOLD = new URL(self.location).searchParams;
const STATIC = TOLD.get("static");
const LIVE = TOLD.getAll("live").map((one) => new RegExp("^" + one.replace(/[.*+?^${}()|[\]\\]/g, "\\$&").replace("NUMBER", "[0-9]+").replace("KEY", "")));
const SCOPE = new URL(self.registration.scope).pathname;
const HELD = SCOPE.split("/")[1] + "-1";
const MOST = 150;

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(
  caches.keys().then((names) => Promise.all(names.filter((name) => name.startsWith(HELD.split("-")[0] + "-") && name !== HELD).map((name) => caches.delete(name)))).then(() => self.clients.claim()),
));

async function fresh(request) {
  const response = await fetch(request);
  if (response.ok && !response.redirected) {
    const held = await caches.open(HELD);
    await held.put(request, response.clone());
    const all = await held.keys();
    await Promise.all(all.slice(0, Math.max(0, all.length - MOST)).map((old) => held.delete(old)));
  }
  return response;
}

/* Whether a saved response is a page of the current user, or not a page. */
async function isAllowed(response) {
  const userId = response.headers.get("Wise-Arc-User");
  if (userId === null) { return true; }
  const saved = await (await caches.open("user")).match("/user");
  return saved !== undefined && await saved.text() === userId;
}

/* The server first. The cache is used only without an answer. */
self.addEventListener("fetch", (event) => {
  const request = event.request;
  const address = new URL(request.url);
  const ours = request.method === "GET" && address.origin === self.location.origin;
  // Live data of a purge or an arc never comes from the cache.
  if (LIVE.some((one) => one.test(address.pathname))) { return; }
  if (!ours || !(address.pathname.startsWith(SCOPE) || address.pathname.startsWith(STATIC))) { return; }
  event.respondWith(fresh(request).catch(async (error) => {
    const held = await (await caches.open(HELD)).match(request);
    if (held && await isAllowed(held)) { return held; }
    throw error;
  }));
});
