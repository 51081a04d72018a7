import type { IncidentView } from "../../../core/rules/rule.ts";

export type LiveMessage =
  | { readonly kind: "samples"; readonly atMs: number }
  | { readonly kind: "raised" | "cleared"; readonly incident: IncidentView }
  /** The stream is there again after it was lost. */
  | { readonly kind: "back" };

export type LiveStatus = { readonly kind: "waiting" | "open" } | { readonly kind: "lost"; readonly sinceMs: number };

const retryMs = 2000;
/** The server says something every 10 s; after this much silence the line is taken for dead. */
const silenceMs = 25_000;

/** The server's event stream: connects again by itself, and knows since when it is lost. */
export class LiveStream {
  #source: EventSource | undefined;
  #status: LiveStatus = { kind: "waiting" };
  #retry: number | undefined;
  #watch: number | undefined;
  readonly #statusListeners = new Set<() => void>();
  readonly #messageListeners = new Set<(message: LiveMessage) => void>();

  start(): void {
    this.#connect();
  }

  stop(): void {
    clearTimeout(this.#retry);
    clearTimeout(this.#watch);
    this.#source?.close();
    this.#source = undefined;
    this.#set({ kind: "waiting" });
  }

  get status(): LiveStatus {
    return this.#status;
  }

  onStatus = (listener: () => void): (() => void) => {
    this.#statusListeners.add(listener);
    return () => this.#statusListeners.delete(listener);
  };

  onMessage(listener: (message: LiveMessage) => void): () => void {
    this.#messageListeners.add(listener);
    return () => this.#messageListeners.delete(listener);
  }

  #connect(): void {
    const source = new EventSource("/api/live");
    this.#source = source;
    const heard = () => {
      clearTimeout(this.#watch);
      this.#watch = window.setTimeout(() => this.#lose(), silenceMs);
    };
    source.addEventListener("open", () => {
      const before = this.#status;
      this.#set({ kind: "open" });
      heard();
      if (before.kind === "lost") this.#tell({ kind: "back" });
    });
    for (const kind of ["samples", "raised", "cleared"] as const) {
      source.addEventListener(kind, (event) => {
        heard();
        this.#tell(JSON.parse((event as MessageEvent<string>).data) as LiveMessage);
      });
    }
    source.addEventListener("error", () => this.#lose());
  }

  #lose(): void {
    this.#source?.close();
    clearTimeout(this.#watch);
    if (this.#status.kind !== "lost") this.#set({ kind: "lost", sinceMs: Date.now() });
    clearTimeout(this.#retry);
    this.#retry = window.setTimeout(() => this.#connect(), retryMs);
  }

  #set(status: LiveStatus): void {
    this.#status = status;
    for (const listener of this.#statusListeners) listener();
  }

  #tell(message: LiveMessage): void {
    for (const listener of this.#messageListeners) listener(message);
  }
}
