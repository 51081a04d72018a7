import { pipeline } from "node:stream/promises";
import type { Request, RequestHandler, Response } from "express";
import { Agent, request as ask } from "undici";
import type { Leader } from "../db/serving-rows.ts";
import { handedOn } from "../http/from-beside.ts";
import { keptBody } from "../http/kept-body.ts";
import { Problem } from "../http/problem.ts";
import { pinnedToKey } from "../transport/key-pin.ts";

const connectMs = 3000;
/** Some answers are worked out for minutes; live streams never end. */
const answerMs = 330_000;
/** Headers that are of one connection (RFC 9110 §7.6.1), and those that a proxy wrote for this server. */
const ownHeaders =
  /^(connection|keep-alive|proxy-.*|te|trailer|transfer-encoding|upgrade|expect|forwarded|x-forwarded-.*|nubrel-handed-.*)$/;
/** What a server that stands beside answers of itself: readings, which are most of the work. */
const answeredHere = /^\/api\/(readings(\/several)?|density)$/;
const ofTheLeader = /^\/(api|v1|collector|house-authority\.crt)(\/|$)/;

interface HandingOn {
  /** The server that leads; undefined where none says so. */
  readonly leader: () => Promise<Leader | undefined>;
  /** Whom a proxy says to come with a request. */
  readonly proxied: (request: Request) => string | undefined;
  readonly signInHeader: string | undefined;
}

/** Hands what is not answered here to the server that leads, and its answer back as it comes. */
export function handsOn({ leader, proxied, signInHeader }: HandingOn): RequestHandler & { close(): Promise<void> } {
  const agents = new Map<string, Agent>();
  const agentOf = ({ pin }: Leader): Agent => {
    const known = agents.get(pin ?? "");
    if (known) return known;
    const connect = pin === null ? { timeout: connectMs } : pinnedToKey(pin, connectMs);
    const agent = new Agent({ connect, headersTimeout: answerMs, bodyTimeout: 0 });
    agents.set(pin ?? "", agent);
    return agent;
  };
  const handler: RequestHandler = async (request, response, next) => {
    if (!ofTheLeader.test(request.path) || answeredHere.test(request.path)) return next();
    const to = await leader();
    if (!to) throw away();
    await handOn(request, response, to, agentOf(to), headersOf(request, to, proxied(request), signInHeader));
  };
  return Object.assign(handler, {
    close: async () => {
      await Promise.all([...agents.values()].map((agent) => agent.destroy()));
    },
  });
}

async function handOn(
  request: Request,
  response: Response,
  to: Leader,
  dispatcher: Agent,
  headers: Record<string, string | readonly string[]>,
): Promise<void> {
  const gone = new AbortController();
  response.once("close", () => gone.abort());
  const hasBody = "content-length" in request.headers || "transfer-encoding" in request.headers;
  try {
    const answer = await ask(new URL(to.address).origin + request.originalUrl, {
      method: request.method as "GET",
      headers: headers as Record<string, string>,
      body: hasBody ? (keptBody(request) ?? request) : null,
      dispatcher,
      signal: gone.signal,
    });
    response.statusCode = answer.statusCode;
    for (const [name, value] of Object.entries(answer.headers))
      if (value !== undefined && !ownHeaders.test(name)) response.setHeader(name, value);
    response.flushHeaders();
    await pipeline(answer.body, response);
  } catch (error) {
    if (gone.signal.aborted) return;
    if (response.headersSent) response.destroy();
    else throw away(error);
  }
}

function headersOf(
  request: Request,
  to: Leader,
  proxied: string | undefined,
  signInHeader: string | undefined,
): Record<string, string | readonly string[]> {
  const headers: Record<string, string | readonly string[]> = {};
  for (const [name, value] of Object.entries(request.headers))
    if (value !== undefined && !ownHeaders.test(name) && name !== signInHeader?.toLowerCase()) headers[name] = value;
  return {
    ...headers,
    host: request.host ?? "",
    [handedOn.pass]: to.pass,
    [handedOn.from]: request.ip ?? "",
    [handedOn.over]: request.protocol,
    ...(proxied !== undefined && { [handedOn.as]: encodeURIComponent(proxied) }),
  };
}

const away = (cause?: unknown): Problem =>
  Object.assign(
    new Problem(
      503,
      "no-server-leads",
      "The server that leads does not answer just now. Another takes its place within seconds; what is stored is safe. Ask again.",
      { retryAfterSeconds: 3 },
    ),
    { cause },
  );
