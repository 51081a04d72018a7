import { type LiveEvent, liveKinds } from "../../../core/api/live.ts";
import { type LiveSource, openLive } from "./live-source.ts";

export type LiveMessage =
  | LiveEvent
  /** The stream is there again after it was lost or rested. */
  | { readonly kind: "back" };

export type LiveStatus = { readonly kind: "waiting" | "open" } | { readonly kind: "lost"; readonly sinceMs: number };

const retryMs = 2000;
/** The server says something every 10 s; after this much silence the line is taken for dead. */
const silenceMs = 25_000;
/** A tab hidden for this long gives its connection back until it is seen again. */
const hiddenMs = 60_000;

/** The server's event stream: connects again by itself, and knows since when it is lost. */
export class LiveStream {
  #source: LiveSource | undefined;
  #status: LiveStatus = { kind: "waiting" };
  #retry: number | undefined;
  #watch: number | undefined;
  #hidden: number | undefined;
  /** Whether something may have been told while no stream was open. */
  #missed = false;
  readonly #statusListeners = new Set<() => void>();
  readonly #staysHidden: () => boolean;
  readonly #messageListeners = new Set<(message: LiveMessage) => void>();

  /** `staysHidden` tells whether a hidden tab has to go on hearing, because the system is to show what is raised. */
  constructor(staysHidden: () => boolean) {
    this.#staysHidden = staysHidden;
  }

  start(): void {
    addEventListener("pagehide", this.#rest);
    addEventListener("pageshow", this.#goOn);
    document.addEventListener("visibilitychange", this.#seenOrNot);
    this.#connect();
  }

  stop(): void {
    removeEventListener("pagehide", this.#rest);
    removeEventListener("pageshow", this.#goOn);
    document.removeEventListener("visibilitychange", this.#seenOrNot);
    this.#rest();
    this.#set({ kind: "waiting" });
  }

  /**
   * Gives the connection back: browsers allow six to a server over HTTP/1.1, pages that were left and hidden tabs
   * included.
   */
  #rest = (): void => {
    clearTimeout(this.#retry);
    clearTimeout(this.#watch);
    clearTimeout(this.#hidden);
    this.#source?.close();
    this.#source = undefined;
  };

  #goOn = (): void => {
    if (this.#source) return;
    this.#missed = true;
    this.#connect();
  };

  #seenOrNot = (): void => {
    clearTimeout(this.#hidden);
    if (document.visibilityState === "hidden" && !this.#staysHidden())
      this.#hidden = window.setTimeout(this.#rest, hiddenMs);
    else if (document.visibilityState !== "hidden") this.#goOn();
  };

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
    const source = openLive();
    this.#source = source;
    const heard = () => {
      clearTimeout(this.#watch);
      this.#watch = window.setTimeout(() => this.#lose(), silenceMs);
    };
    source.addEventListener("open", () => {
      const missed = this.#missed || this.#status.kind === "lost";
      this.#missed = false;
      this.#set({ kind: "open" });
      heard();
      if (missed) this.#tell({ kind: "back" });
    });
    for (const kind of liveKinds) {
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
