import { request } from "undici";
import type { AlertingView } from "../../core/api/alerting.ts";

const everyMs = 60_000;
const timeoutMs = 10_000;

/**
 * Calls an address every minute while rules are checked, so that something outside notices when Nubrel is gone, or
 * checks nothing any more.
 */
export class Heartbeat {
  readonly #url: () => Promise<string>;
  /** Whether checks are made in time: a heart that beats while nothing is checked would lie. */
  readonly #isWell: () => boolean;
  #lastAtMs: number | null = null;
  #failure: string | null = null;
  #dueMs = 0;

  constructor(url: () => Promise<string>, isWell: () => boolean) {
    this.#url = url;
    this.#isWell = isWell;
  }

  async view(): Promise<AlertingView["heartbeat"]> {
    const url = await this.#url();
    return url === "" ? null : { url, lastAtMs: this.#lastAtMs, failure: this.#failure };
  }

  /** Has the next beat come at once: the address was changed. */
  soon(): void {
    this.#dueMs = 0;
    this.#failure = null;
  }

  /** To be called often; calls once a minute. */
  async beat(nowMs: number, monotonicMs = performance.now()): Promise<void> {
    if (monotonicMs < this.#dueMs) return;
    this.#dueMs = monotonicMs + everyMs;
    const url = await this.#url();
    if (url === "") return;
    if (!this.#isWell()) {
      this.#failure = "It was not called: rules are not checked in time.";
      return;
    }
    try {
      const answer = await request(url, {
        method: "POST",
        headersTimeout: timeoutMs,
        bodyTimeout: timeoutMs,
        headers: { "user-agent": "Nubrel" },
      });
      await answer.body.dump();
      this.#failure = answer.statusCode < 400 ? null : `It answered HTTP ${answer.statusCode}.`;
      if (this.#failure === null) this.#lastAtMs = nowMs;
    } catch (error) {
      this.#failure = `It was not reached: ${(error as Error).message}`;
    }
  }
}
