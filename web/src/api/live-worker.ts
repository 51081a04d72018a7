import { liveKinds } from "../../../core/api/live.ts";

// One stream for all pages of this browser: over HTTP/1.1 a browser opens six connections to a server, and a stream of
// each page would take them all. The worker's name is the stream's address.

/** What a page says to the worker, and the worker to its pages. */
export type ToWorker = { readonly kind: "here" } | { readonly kind: "leave" };
export type FromWorker =
  | { readonly kind: "open" }
  | { readonly kind: "error" }
  | { readonly kind: "event"; readonly type: string; readonly data: string };

/** A page that has not said for so long that it is there has gone; timers of hidden pages run once a minute. */
const goneMs = 200_000;
const lookEveryMs = 30_000;

const ports = new Map<MessagePort, number>();
let source: EventSource | undefined;
let isOpen = false;

function tell(message: FromWorker): void {
  for (const port of ports.keys()) port.postMessage(message);
}

function connect(): void {
  isOpen = false;
  const made = new EventSource(self.name);
  source = made;
  made.addEventListener("open", () => {
    isOpen = true;
    tell({ kind: "open" });
  });
  for (const type of liveKinds)
    made.addEventListener(type, (event) => tell({ kind: "event", type, data: (event as MessageEvent<string>).data }));
  made.addEventListener("error", () => {
    end();
    tell({ kind: "error" });
  });
}

function end(): void {
  source?.close();
  source = undefined;
  isOpen = false;
}

function leave(port: MessagePort): void {
  ports.delete(port);
  if (ports.size === 0) end();
}

self.addEventListener("connect", (event) => {
  const port = (event as MessageEvent).ports[0] as MessagePort;
  ports.set(port, performance.now());
  port.onmessage = ({ data }: MessageEvent<ToWorker>) => {
    if (data.kind === "leave") return leave(port);
    ports.set(port, performance.now());
    if (!source) connect(); // it was lost, and a page wants it again
  };
  if (!source) connect();
  else if (isOpen) port.postMessage({ kind: "open" } satisfies FromWorker);
});

setInterval(() => {
  for (const [port, heardMs] of ports) if (performance.now() - heardMs > goneMs) leave(port);
}, lookEveryMs);
