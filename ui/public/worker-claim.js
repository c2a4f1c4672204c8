// Part of the service worker. A page that is asked for while the worker starts, or reloaded past it, is not the
// worker's: it asks to be taken.
self.addEventListener("message", (event) => {
  if (event.data === "claim") event.waitUntil(self.clients.claim());
});
