import { gzipSync } from "node:zlib";
import { Agent, request } from "undici";
import { readProtobufResponse } from "../../core/formats/otlp/otlp-protobuf.ts";
import { addressOfUrl } from "../transport/address-of-url.ts";
import { diagnose } from "../transport/diagnose.ts";
import { trustingConnector } from "../transport/trusting-connector.ts";

const timeoutMs = 20_000;
const mostAnswer = 65_536;
/** Answers that another try may change (OTLP 1.x, "Retryable Response Codes"), and those that a person may change. */
const laterOrMended = new Set([401, 403, 404, 405, 407, 408, 421, 425, 429]);

/** What a receiver made of a request. */
export type Posted =
  | { readonly kind: "taken"; readonly refused: number; readonly words: string }
  /** It would be no better the next time. */
  | { readonly kind: "refused"; readonly words: string }
  | { readonly kind: "failed"; readonly words: string };

/** Posts requests of OTLP metrics to one receiver; the connection stays open between. */
export class MetricsPoster {
  readonly #url: string;
  readonly #headers: Readonly<Record<string, string>>;
  readonly #address;
  readonly #agent: Agent;

  /** `issuer` is PEM, or "" for the system's issuers. */
  constructor(url: string, headers: Readonly<Record<string, string>>, issuer: string) {
    this.#url = url;
    this.#headers = headers;
    this.#address = addressOfUrl(url, timeoutMs);
    const trust = issuer === "" ? ({ kind: "system" } as const) : ({ kind: "issuer", pem: issuer } as const);
    this.#agent = new Agent({
      connect: trustingConnector(this.#address, trust),
      connections: 1,
      headersTimeout: timeoutMs,
      bodyTimeout: timeoutMs,
    });
  }

  async post(body: Uint8Array): Promise<Posted> {
    try {
      const answer = await request(this.#url, {
        method: "POST",
        dispatcher: this.#agent,
        headers: {
          ...this.#headers,
          "content-type": "application/x-protobuf",
          "content-encoding": "gzip",
          "user-agent": "Nubrel",
        },
        body: gzipSync(body),
        signal: AbortSignal.timeout(timeoutMs),
      });
      const bytes = await wholeOf(answer.body);
      const { statusCode: status } = answer;
      if (status >= 200 && status < 300) {
        const { partialSuccess } = readProtobufResponse(bytes) ?? {};
        return {
          kind: "taken",
          refused: partialSuccess?.rejectedDataPoints ?? 0,
          words: partialSuccess?.errorMessage ?? "",
        };
      }
      const words = `It answers with ${status}${textOf(bytes)}.`;
      return { kind: status >= 500 || status < 400 || laterOrMended.has(status) ? "failed" : "refused", words };
    } catch (error) {
      const { message, remedy } = await diagnose(error, this.#address);
      return { kind: "failed", words: `${message} ${remedy}` };
    }
  }

  close(): Promise<void> {
    return this.#agent.destroy();
  }
}

async function wholeOf(body: AsyncIterable<Uint8Array>): Promise<Buffer> {
  const pieces: Uint8Array[] = [];
  let size = 0;
  for await (const piece of body) {
    pieces.push(piece);
    size += piece.length;
    if (size > mostAnswer) break;
  }
  return Buffer.concat(pieces);
}

/** The beginning of what it says, where that is text. */
function textOf(bytes: Buffer): string {
  const text = [...bytes.toString("utf8", 0, 400)]
    .filter((sign) => sign >= " " && sign !== "\ufffd")
    .join("")
    .trim();
  return text === "" ? "" : `: ${text.slice(0, 200)}`;
}
