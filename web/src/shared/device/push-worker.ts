// The part of a page that a browser wakes when a push service has something for it (Push API; Service Workers): it shows
// the message, and opens what it is about when it is touched. It stands between no page and its server.

interface Pushed {
  readonly id: string;
  readonly title: string;
  readonly text: string;
  readonly link: string;
}

/** Of the Service Workers and Push APIs what is used here: a page's own types do not have them. */
interface Waking extends Event {
  waitUntil(done: Promise<unknown>): void;
}
interface PushEvent extends Waking {
  readonly data: { json(): unknown; text(): string } | null;
}
interface TouchEvent extends Waking {
  readonly notification: Notification;
}
interface Page {
  readonly url: string;
  focus(): Promise<unknown>;
  navigate(address: string): Promise<unknown>;
}
interface PushWorker {
  readonly registration: ServiceWorkerRegistration;
  readonly clients: {
    matchAll(of: { type: "window"; includeUncontrolled: true }): Promise<readonly Page[]>;
    openWindow(address: string): Promise<unknown>;
  };
  skipWaiting(): Promise<void>;
  addEventListener(kind: "install", listener: (event: Waking) => void): void;
  addEventListener(kind: "push", listener: (event: PushEvent) => void): void;
  addEventListener(kind: "notificationclick", listener: (event: TouchEvent) => void): void;
}

const worker = globalThis as unknown as PushWorker;
const { registration, clients } = worker;

worker.addEventListener("install", (event) => event.waitUntil(worker.skipWaiting()));

worker.addEventListener("push", (event) => {
  const { id, title, text, link } = pushedOf(event.data);
  event.waitUntil(registration.showNotification(title, { body: text, tag: id, data: link }));
});

worker.addEventListener("notificationclick", (event) => {
  event.notification.close();
  event.waitUntil(open(String(event.notification.data ?? "")));
});

/** Something is shown in any case: a browser takes the right away from who wakes it and shows nothing. */
function pushedOf(data: PushEvent["data"]): Pushed {
  const usual = { id: "", title: "Nubrel", text: "", link: "" };
  try {
    return { ...usual, ...(data?.json() as Partial<Pushed>) };
  } catch {
    return { ...usual, text: data?.text() ?? "" };
  }
}

/** Goes on in a page of ours that is open, or in a new one; by the path alone, as it may be reached by another name. */
async function open(link: string): Promise<void> {
  const root = new URL("../", registration.scope);
  const { pathname, search } = URL.canParse(link) ? new URL(link) : root;
  const address = new URL(`${pathname}${search}`, root).href;
  const pages = await clients.matchAll({ type: "window", includeUncontrolled: true });
  const page = pages.find(({ url }) => new URL(url).origin === root.origin);
  if (!page) return void (await clients.openWindow(address));
  await page.focus();
  await page.navigate(address).catch(() => clients.openWindow(address));
}

export type { Pushed };
