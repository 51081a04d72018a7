import { Agent, request } from "undici";
import type { RelayAnswer, RelayState, RelayTaken, RelayWork } from "../../../core/relay/relay-wire.ts";
import { pinnedToKey } from "../../transport/key-pin.ts";
import { systemConnector } from "../../transport/trusting-connector.ts";
import type { SpooledPart } from "./relay-spool.ts";

/** Where a relay's server is, and by what it is let in. */
export interface LinkSettings {
  /** With the path below which it stands, without a slash at its end. */
  readonly to: string;
  readonly token: string;
  /** The key that the server must show; undefined where the system's issuers vouch for it. */
  readonly pin: string | undefined;
}

/** The server refuses what is asked and will go on doing so until a person acts. */
export class RefusedError extends Error {
  override name = "RefusedError";
  readonly status: number;
  constructor(status: number, words: string) {
    super(words);
    this.status = status;
  }
}

const connectMs = 20_000;
/** The server holds a question for work open for less than this. */
const workMs = 60_000;
/** On a weak link a part takes its time: 128 KiB at 2 kB/s. */
const partMs = 120_000;

/** Speaks to the server of a relay. Every method throws where the link is away, RefusedError where the server refuses. */
export class RelayLink {
  readonly #settings: LinkSettings;
  readonly #agent: Agent;

  constructor(settings: LinkSettings) {
    this.#settings = settings;
    const connect =
      settings.pin === undefined ? systemConnector(settings.to, connectMs) : pinnedToKey(settings.pin, connectMs);
    this.#agent = new Agent({ connect, connections: 2, pipelining: 1, keepAliveTimeout: 70_000 });
  }

  /** Tells how the relay stands and what was asked there; answers what there is to do, at the latest after a while. */
  work(state: RelayState, answers: readonly RelayAnswer[], signal?: AbortSignal): Promise<RelayWork> {
    const body = Buffer.from(JSON.stringify({ state, answers }));
    return this.#post("work", body, { "content-type": "application/json" }, workMs, signal) as Promise<RelayWork>;
  }

  send({ bytes }: SpooledPart, life: string, signal?: AbortSignal): Promise<RelayTaken> {
    const headers = { "content-type": "application/x-ndjson", "content-encoding": "gzip", "nubrel-relay-life": life };
    return this.#post("records", bytes, headers, partMs, signal) as Promise<RelayTaken>;
  }

  async #post(
    path: string,
    body: Buffer,
    headers: Readonly<Record<string, string>>,
    timeoutMs: number,
    signal?: AbortSignal,
  ): Promise<unknown> {
    const answer = await request(`${this.#settings.to}/api/relay/${path}`, {
      method: "POST",
      dispatcher: this.#agent,
      headers: { ...headers, authorization: `Bearer ${this.#settings.token}`, "user-agent": "Nubrel relay" },
      body,
      signal: signal ? AbortSignal.any([signal, AbortSignal.timeout(timeoutMs)]) : AbortSignal.timeout(timeoutMs),
      headersTimeout: timeoutMs,
      bodyTimeout: timeoutMs,
    });
    const text = await answer.body.text();
    if (answer.statusCode === 200) return JSON.parse(text);
    const words = wordsOf(text) ?? `It answers with ${answer.statusCode}.`;
    if (answer.statusCode < 500 && answer.statusCode !== 429 && answer.statusCode !== 408)
      throw new RefusedError(answer.statusCode, words);
    throw new Error(words);
  }

  close(): Promise<void> {
    return this.#agent.destroy();
  }
}

/** What a problem says (RFC 9457 §3.1.4); undefined where it is none. */
function wordsOf(text: string): string | undefined {
  try {
    return (JSON.parse(text) as { detail?: string }).detail;
  } catch {
    return undefined;
  }
}
