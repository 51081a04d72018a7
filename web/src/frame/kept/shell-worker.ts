// Between a page and its server for one thing (Service Workers): an address that is opened while the server is away is
// answered with the interface's one page, as it was last, which then shows what this browser has kept. All else goes its
// way.

/** Of the Service Workers API what is used here: a page's own types do not have it. */
interface Waiting extends Event {
  waitUntil(done: Promise<unknown>): void;
}
interface FetchEvent extends Waiting {
  readonly request: Request;
  respondWith(answer: Promise<Response>): void;
}
interface Route {
  readonly condition: { readonly not: { readonly requestMode: "navigate" } };
  readonly source: "network";
}
/** Some browsers are told beforehand what is none of this worker's business (Service Workers, static routing). */
interface InstallEvent extends Waiting {
  addRoutes?(routes: readonly Route[]): Promise<void>;
}
interface ShellWorker {
  readonly registration: ServiceWorkerRegistration;
  skipWaiting(): Promise<void>;
  addEventListener(kind: "install", listener: (event: InstallEvent) => void): void;
  addEventListener(kind: "fetch", listener: (event: FetchEvent) => void): void;
}

export {};

const worker = globalThis as unknown as ShellWorker;
const { scope } = worker.registration;
const shell = "nubrel-shell";
/** What a proxy says for a server that does not answer (RFC 9110, 15.6.3 to 15.6.5). */
const away = [502, 503, 504];
/** Below these no page of the interface stands for somebody who is signed in. */
const elsewhere = ["api/", "s/", "invitation/", "assets/", "metrics"];

worker.addEventListener("install", (event) => {
  // All but pages goes its way without waking the worker.
  event.addRoutes?.([{ condition: { not: { requestMode: "navigate" } }, source: "network" }]).catch(() => {});
  event.waitUntil(
    caches
      .open(shell)
      .then((kept) => kept.add(scope))
      .then(() => worker.skipWaiting()),
  );
});
// No navigation preload: what goes its way would be asked for twice, a code of an issuer's that holds once among it.
worker.addEventListener("fetch", (event) => {
  const { mode, url } = event.request;
  if (mode !== "navigate" || !url.startsWith(scope)) return;
  if (elsewhere.some((path) => url.startsWith(scope + path))) return;
  event.respondWith(page(event));
});

async function page(event: FetchEvent): Promise<Response> {
  const kept = await caches.open(shell);
  try {
    const answer = await fetch(event.request);
    if (away.includes(answer.status)) return (await kept.match(scope)) ?? answer;
    // An icon or a file that is opened by itself is not the page.
    const isPage = answer.headers.get("content-type")?.startsWith("text/html") ?? false;
    if (answer.ok && isPage && !answer.redirected) event.waitUntil(kept.put(scope, answer.clone()));
    return answer;
  } catch (error) {
    const before = await kept.match(scope);
    if (before) return before;
    throw error;
  }
}
