import { createHash, timingSafeEqual } from "node:crypto";
import type { Request, RequestHandler } from "express";

/** What a server that hands a request on says with it: the leading server's pass, and how the request came to it. */
export const handedOn = {
  pass: "nubrel-handed-on",
  from: "nubrel-handed-from",
  over: "nubrel-handed-over",
  /** Whom its own proxy said to come. */
  as: "nubrel-handed-as",
  /** That the server which stands beside asks for itself; what it hands on never says so. */
  own: "nubrel-handed-own",
} as const;

interface HandedOver {
  readonly as: string | undefined;
  /** Whether another server asks this for itself. */
  readonly isOwn: boolean;
}

const handed = new WeakMap<Request, HandedOver>();

/** Takes a request that another server hands on as it came to that one; nobody else knows the pass. */
export function takesHandedOn(pass: string): RequestHandler {
  const digest = (text: string) => createHash("sha256").update(text).digest();
  const known = digest(pass);
  return (request, _response, next) => {
    const said = request.headers[handedOn.pass];
    if (typeof said === "string" && timingSafeEqual(digest(said), known)) {
      const {
        [handedOn.from]: ip,
        [handedOn.over]: protocol,
        [handedOn.as]: as,
        [handedOn.own]: own,
      } = request.headers;
      const isOwn = own === "yes";
      if (!isOwn)
        Object.defineProperties(request, {
          ip: { value: ip },
          protocol: { value: protocol },
          secure: { value: protocol === "https" },
        });
      handed.set(request, { as: typeof as === "string" ? as : undefined, isOwn });
    }
    next();
  };
}

/** That another server hands this request on; it has looked at the name and the proxy by which it came. */
export const handedRequest = (request: Request): HandedOver | undefined => handed.get(request);
