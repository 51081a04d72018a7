import { promisify } from "node:util";
import { gunzip, inflate } from "node:zlib";
import type { Request, RequestHandler } from "express";
import type { Logger } from "pino";
import { sends } from "../../core/sources/kinds/source-kinds.ts";
import type { Database } from "../db/pool.ts";
import { isLoopback } from "../http/loopback.ts";
import { keepBody } from "../http/kept-body.ts";
import { answerOfPage, collectorVersion, dialectOf, mostRaw, rawOf } from "../intake/push-answer.ts";
import { bodyAsItCame } from "../intake/request-body.ts";
import { bearerOf } from "../people/bearer.ts";
import { Tokens } from "../people/tokens.ts";
import type { Store } from "../store/store.ts";
import { isForTheLeader } from "./source-here.ts";
import type { SourcesHere } from "./sources-here.ts";
import type { TellingAccounts } from "./telling-accounts.ts";

const path = "/api/push/openmetrics";
/** A larger body is read as it comes, by the server that leads. */
const mostBytes = 8_388_608;

const [unzip, inflated] = [promisify(gunzip), promisify(inflate)];

interface TakingParts {
  readonly database: Database;
  readonly store: Store;
  readonly sources: SourcesHere;
  readonly accounts: TellingAccounts;
  readonly log: Logger;
}

/**
 * Takes what is sent to a server that stands beside the one that leads, into journal segments of its own: pages of which
 * every series is known as their source's and every sample is newer than what is known of it, with a token that holds,
 * of a source that is not paused. All else, and whatever is in doubt, it leaves to the server that leads, to which the
 * request is handed on as it came.
 */
export class TakingHere {
  readonly #parts: TakingParts;
  readonly #tokens: Tokens;

  constructor(parts: TakingParts) {
    this.#parts = parts;
    // A token that the server that leads has revoked does not hold here a moment longer.
    this.#tokens = new Tokens(parts.database, 0);
  }

  readonly handler: RequestHandler = async (request, response, next) => {
    if (request.method !== "POST" || request.path !== path || !this.#fits(request)) return next();
    const packed = await bodyAsItCame(request, mostBytes);
    keepBody(request, packed);
    let answer: object | undefined;
    try {
      answer = await this.#take(request, packed);
    } catch (error) {
      if (!isForTheLeader(error))
        this.#parts.log.info({ err: error }, "what was sent is handed on to the server that leads");
    }
    if (!answer) return next();
    response.setHeader("Cache-Control", "no-store");
    response.json(answer);
  };

  /** While nothing can be stored from here the server that leads keeps what waits, on its disk as well. */
  #fits({ headers }: Request): boolean {
    if (this.#parts.store.health.failure) return false;
    const length = Number(headers["content-length"]);
    return length > 0 && length <= mostBytes;
  }

  /** Undefined where the server that leads is to take it. */
  async #take(request: Request, packed: Buffer): Promise<object | undefined> {
    const { accounts, sources } = this.#parts;
    const token = await this.#tokens.check(bearerOf(request) ?? "", request.ip);
    if (token?.scope !== "write" || token.sourceId === null) return undefined;
    const here = await sources.find(token.sourceId);
    if (!here || !sends(here.source)) return undefined;
    const { headers } = request;
    const text = await unpacked(packed, headers["content-encoding"], here.limits.bodyBytes);
    if (!text) return undefined;
    const contentType = headers["content-type"] ?? "";
    const nowMs = Date.now();
    const taken = await here.takeText(text, dialectOf(contentType), nowMs);
    if (!taken) return undefined;
    const { source } = here;
    const isCollector = source.kind === "collector";
    accounts.add(
      {
        ...taken.account,
        source: source.id,
        isElsewhere: !isLoopback(request.ip ?? ""),
        version: isCollector ? (collectorVersion(headers["user-agent"]) ?? null) : null,
        raw: this.#rawOf(source.id, text, contentType, nowMs),
      },
      isCollector,
    );
    return { ...answerOfPage(taken.account.taken, taken.leftOut), ...(isCollector && accounts.wishOf(source.id)) };
  }

  #rawOf(id: number, text: Buffer, contentType: string, atMs: number) {
    if (!this.#parts.sources.isToldWhole(id)) return null;
    const base64 = rawOf(text.subarray(0, mostRaw), text.length).toString("base64");
    return { base64, contentType, isWhole: text.length <= mostRaw, atMs };
  }
}

/** Undefined where it cannot be unpacked, or is too large: the server that leads says so in words. */
async function unpacked(body: Buffer, encoding: string | undefined, most: number): Promise<Buffer | undefined> {
  try {
    switch (encoding ?? "identity") {
      case "identity":
        return body.length <= most ? body : undefined;
      case "gzip":
      case "x-gzip":
        return await unzip(body, { maxOutputLength: most });
      case "deflate":
        return await inflated(body, { maxOutputLength: most });
      default:
        return undefined;
    }
  } catch {
    return undefined;
  }
}
