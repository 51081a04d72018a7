import type { RequestHandler } from "express";
import { handedRequest } from "./from-beside.ts";
import { isLoopback } from "./loopback.ts";
import { Problem } from "./problem.ts";

const lookEveryMs = 30_000;

/**
 * Serves only requests whose Host is a name or an address that this server answers to: its own, those of NUBREL_NAMES,
 * and the address that was connected to. A page elsewhere whose name
 * was made to point here (DNS rebinding) names itself there, and is told 421 (RFC 9110 §15.5.20).
 */
export function answeredNames(names: () => readonly string[]): RequestHandler {
  let known: ReadonlySet<string> = new Set();
  let lookedMs = Number.NEGATIVE_INFINITY;
  return (request, _response, next) => {
    const now = performance.now();
    if (now - lookedMs > lookEveryMs) {
      known = new Set(names().map((name) => name.toLowerCase()));
      lookedMs = now;
    }
    if (handedRequest(request)) return next();
    const name = nameOf(request.host ?? "");
    if (known.has(name) || isLoopback(name) || name === plain(request.socket.localAddress ?? "")) return next();
    throw new Problem(
      421,
      "not-this-servers-name",
      `This server does not answer to "${name.slice(0, 100)}". If it should, start it with NUBREL_NAMES=${/^[\w.:-]{1,100}$/.test(name) ? name : "the name"}.`,
    );
  };
}

function nameOf(host: string): string {
  return plain(
    (host.startsWith("[") ? (host.slice(1).split("]")[0] as string) : (host.split(":")[0] as string))
      .toLowerCase()
      .replace(/\.$/, ""),
  );
}

const plain = (address: string): string => address.replace(/^::ffff:/i, "");
