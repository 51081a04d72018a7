import { isUtf8 } from "node:buffer";
import type { Request } from "express";
import { handedRequest } from "../http/from-beside.ts";

type TrustsAddress = (address: string, hop: number) => boolean;

/**
 * Whom a proxy before this server says to come, by a header; undefined where no header was named, none came, or the
 * connection is none of a named proxy's: anybody could write such a header.
 */
export function nameByProxy(request: Request, header: string | undefined): string | undefined {
  if (header === undefined) return undefined;
  const handed = handedRequest(request);
  if (handed) return handed.as === undefined ? undefined : decodeURIComponent(handed.as);
  const isProxy = request.app.get("trust proxy fn") as TrustsAddress;
  if (!isProxy(request.socket.remoteAddress ?? "", 0)) return undefined;
  const value = request.headers[header.toLowerCase()];
  if (typeof value !== "string" || value.trim() === "") return undefined;
  // Names that are not ASCII come as UTF-8, which headers are not read as.
  const bytes = Buffer.from(value, "latin1");
  return (isUtf8(bytes) ? bytes.toString("utf8") : value).trim();
}
