import { apiAddress } from "./base-path.ts";
import { livePath } from "../../../core/api/live.ts";
import type { FromWorker, ToWorker } from "./live-worker.ts";

/** The server's events as an EventSource gives them; closed by its user. */
export interface LiveSource extends EventTarget {
  close(): void;
}

const hereEveryMs = 20_000;

/**
 * Opens the stream: the one that all pages of this browser share, or one of this page where the browser shares none.
 */
export function openLive(): LiveSource {
  return typeof SharedWorker === "undefined" ? new EventSource(apiAddress(livePath)) : new SharedSource();
}

class SharedSource extends EventTarget implements LiveSource {
  readonly #port: MessagePort;
  readonly #here: number;

  constructor() {
    super();
    const worker = new SharedWorker(new URL("./live-worker.ts", import.meta.url), {
      type: "module",
      name: apiAddress(livePath),
    });
    this.#port = worker.port;
    this.#port.onmessage = ({ data }: MessageEvent<FromWorker>) =>
      this.dispatchEvent(
        data.kind === "event" ? new MessageEvent(data.type, { data: data.data }) : new Event(data.kind),
      );
    worker.onerror = () => this.dispatchEvent(new Event("error"));
    this.#here = window.setInterval(() => this.#say({ kind: "here" }), hereEveryMs);
    this.#say({ kind: "here" });
  }

  close(): void {
    clearInterval(this.#here);
    this.#say({ kind: "leave" });
    this.#port.close();
  }

  #say(message: ToWorker): void {
    this.#port.postMessage(message);
  }
}
