import type { Readable } from "node:stream";
import { createGunzip, createInflate } from "node:zlib";
import { Agent, request } from "undici";
import type { Dialect } from "../../../core/formats/exposition/families.ts";
import type { Credentials, PullAddress, Trust } from "../../../core/sources/source.ts";
import { diagnose, statusError } from "../../transport/diagnose.ts";
import { PullError } from "../../transport/pull-error.ts";
import { certificateEndMs, trustingConnector } from "../../transport/trusting-connector.ts";

/** What an address answered. */
export interface PulledPage {
  readonly dialect: Dialect;
  readonly contentType: string;
  readonly bytes: Uint8Array;
  readonly tookMs: number;
  /**
   * What time it is there, by the answer's Date (RFC 9110 §6.6.1), and when that was here; undefined where it says
   * nothing.
   */
  readonly clock: { readonly thereMs: number; readonly hereMs: number } | undefined;
  /** When its certificate ends; undefined where it shows none. */
  readonly certificateUntilMs: number | undefined;
}

const accept =
  "application/openmetrics-text; version=1.0.0; charset=utf-8, text/plain; version=0.0.4; q=0.5, */*; q=0.1";

/** Asks one address over and over; the connection stays open between. */
export class PageAsker {
  readonly #address: PullAddress;
  readonly #agent: Agent;
  readonly #headers: Readonly<Record<string, string>>;
  readonly #trust: Trust;
  readonly #hasCredentials: boolean;
  #isConnected = false;
  #certificateUntilMs: number | undefined;

  constructor(address: PullAddress, trust: Trust, credentials: Credentials) {
    this.#address = address;
    this.#trust = trust;
    this.#hasCredentials = credentials.kind !== "none";
    const connect = trustingConnector(address, trust);
    const noting: typeof connect = (options, callback) => {
      this.#isConnected = false;
      connect(options, (...result) => {
        this.#isConnected = result[0] === null;
        this.#certificateUntilMs = certificateEndMs(result[1]);
        callback(...result);
      });
    };
    this.#agent = new Agent({
      connect: noting,
      connections: 1,
      pipelining: 1,
      headersTimeout: address.timeoutMs,
      bodyTimeout: address.timeoutMs,
      keepAliveTimeout: 70_000,
      maxHeaderSize: 32_768,
    });
    this.#headers = { accept, "accept-encoding": "gzip", "user-agent": "Nubrel", ...authorization(credentials) };
  }

  /** Throws PullError. */
  async ask(mostBytes: number): Promise<PulledPage> {
    const { scheme, host, port, path, timeoutMs } = this.#address;
    const began = performance.now();
    let hasBegun = false;
    try {
      const origin = `${scheme}://${host.includes(":") ? `[${host}]` : host}:${port}`;
      const signal = AbortSignal.timeout(timeoutMs);
      const answer = await request(`${origin}${path}`, { dispatcher: this.#agent, headers: this.#headers, signal });
      hasBegun = true;
      const hereMs = Date.now();
      try {
        const location = answer.headers["location"];
        if (answer.statusCode !== 200)
          throw statusError(
            answer.statusCode,
            Array.isArray(location) ? location[0] : location,
            this.#address,
            this.#hasCredentials,
          );
        const contentType = String(answer.headers["content-type"] ?? "");
        if (/^text\/html/i.test(contentType)) throw webPage();
        const bytes = await readBody(answer.body, String(answer.headers["content-encoding"] ?? ""), mostBytes);
        if (/^\s*<(!doctype|html|\?xml)/i.test(Buffer.from(bytes.subarray(0, 200)).toString("latin1"))) throw webPage();
        return {
          dialect: /openmetrics-text/i.test(contentType) ? "openmetrics" : "text",
          contentType,
          bytes,
          tookMs: performance.now() - began,
          clock: clockOf(answer.headers["date"], hereMs),
          certificateUntilMs: this.#certificateUntilMs,
        };
      } catch (error) {
        answer.body.on("error", () => {});
        answer.body.destroy();
        throw error;
      }
    } catch (error) {
      throw await diagnose(
        error,
        this.#address,
        hasBegun ? "answering" : this.#isConnected ? "connected" : "connecting",
        this.#trust,
      );
    }
  }

  close(): Promise<void> {
    return this.#agent.destroy();
  }
}

const webPage = () =>
  new PullError(
    "not the format",
    "What came is a web page, not a page of counters.",
    "The path may be another, often /metrics.",
  );

/** Whole seconds are said: half of one is meant besides, on average. */
function clockOf(date: string | string[] | undefined, hereMs: number): PulledPage["clock"] {
  const ms = typeof date === "string" ? Date.parse(date) : Number.NaN;
  return Number.isNaN(ms) ? undefined : { thereMs: ms + 500, hereMs };
}

function authorization(credentials: Credentials): Record<string, string> {
  if (credentials.kind === "basic")
    return { authorization: `Basic ${Buffer.from(`${credentials.user}:${credentials.password}`).toString("base64")}` };
  return credentials.kind === "bearer" ? { authorization: `Bearer ${credentials.token}` } : {};
}

/** Reads a body, unpacked, up to a bound: more is an endless page, or one that unpacks to much more than it is. */
async function readBody(body: Readable, encoding: string, mostBytes: number): Promise<Uint8Array> {
  const packed = encoding === "gzip" || encoding === "deflate";
  if (!packed && encoding !== "" && encoding !== "identity")
    throw new PullError(
      "not the format",
      `The answer is packed as ${encoding.slice(0, 40)}, which was not asked for.`,
      "Look at the program there.",
    );
  const unpacked = packed ? body.pipe(encoding === "gzip" ? createGunzip() : createInflate()) : body;
  if (packed) body.on("error", (error) => unpacked.destroy(error));
  const chunks: Uint8Array[] = [];
  let size = 0;
  try {
    for await (const chunk of unpacked as AsyncIterable<Uint8Array>) {
      size += chunk.length;
      if (size > mostBytes) {
        const words = packed
          ? `The packed answer unpacks to more than ${megabytes(mostBytes)}.`
          : `The answer is longer than ${megabytes(mostBytes)}.`;
        throw new PullError(
          packed ? "bomb" : "too large",
          words,
          "If such a page is right, raise the limit of a body under Sources; else look at what answers there.",
        );
      }
      chunks.push(chunk);
    }
  } catch (error) {
    if (/^Z_|ERR_BUFFER/.test(String((error as { code?: string }).code)))
      throw new PullError(
        "truncated",
        "The packed answer is damaged or was cut off.",
        "The program there fails while it writes, or something on the way ends connections: its own log says why.",
        { cause: error },
      );
    throw error;
  } finally {
    body.destroy();
  }
  return Buffer.concat(chunks);
}

const megabytes = (bytes: number) => `${Math.round(bytes / 1_048_576)} MiB`;
